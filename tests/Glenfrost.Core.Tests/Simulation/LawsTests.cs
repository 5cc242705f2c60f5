using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pictures;
using Glenfrost.Simulation.Pieces;
using SkiaSharp;

namespace Glenfrost.Core.Tests.Simulation;

/// <summary>What is physical about the hidden materials, whatever their draw; and that instruments have only their own faults.</summary>
public class SimulatedLawsTests
{
    private static Gen<Laws> Any =>
        Gen.Select(Gen.Int[0, FamilyTraits.All.Count - 1], Gen.ULong, Gen.ULong, Gen.Bool, Gen.Bool)
            .Select(
                (family, a, b, tube, flow) =>
                    new Laws(HiddenMaterial.Draw(FamilyTraits.All[family].Name, a), HiddenMachine.Draw(b, 0.4, flow, tube ? 420 : null)));

    [Fact]
    public void What_must_rise_rises_and_what_must_fall_falls() => Gen.Select(Any, Gen.Double[-25, 25], Gen.Double[0.5, 20]).Sample((l, off, flow) =>
    {
        var (melt, hotter) = (l.Material.CentreC + off, l.Material.CentreC + off + 4);
        Assert.True(l.Viscosity(hotter) < l.Viscosity(melt));
        Assert.True(l.CapacityMm3PerS(hotter) > l.CapacityMm3PerS(melt));
        Assert.True(l.MeltC(melt, flow + 1) < l.MeltC(melt, flow));
        Assert.True(l.ForceN(flow + 1, melt) > l.ForceN(flow, melt));
        Assert.True(l.ForceN(flow, melt, 0.5) > l.ForceN(flow, melt));
        Assert.True(l.Loss(flow + 1, melt) >= l.Loss(flow, melt) - 1e-12);
        Assert.True(l.Loss(flow, melt, free: true) <= l.Loss(flow, melt) + 1e-12);
        Assert.True(l.Loss(flow, melt, 1, 0.5) > Math.Min(0.949, l.Loss(flow, melt)));
        Assert.InRange(l.Loss(flow, melt), 0, 0.95);
        var r = l.Machine.RetractionMm;
        Assert.True(l.Ooze(melt, r) < l.Ooze(melt, r / 2));
        Assert.True(l.Ooze(hotter, r) > l.Ooze(melt, r));
        Assert.True(l.StartGapMm(3 * r) > l.StartGapMm(r));
        Assert.True(l.SagMm(melt, 30, 1) > l.SagMm(melt, 20, 1));
        Assert.True(l.Bond(melt, 1, 20) <= l.Bond(melt, 0, 20));
        Assert.True(l.Bond(melt, 0.5, 90) <= l.Bond(melt, 0.5, 10));
        Assert.InRange(l.Bond(melt, 0.5, 20), 0, 1);
        Assert.True(l.Expansion(melt, 3) >= 1);
        Assert.True(l.Expansion(l.Material.FoamC, 3) >= l.Expansion(l.Material.FoamC - 10, 3));
        var wet = new Laws(l.Material.After(200, 60), l.Machine);
        Assert.True(wet.Ooze(melt, r) > l.Ooze(melt, r));
        Assert.True(wet.RoughMm(melt, 1) > l.RoughMm(melt, 1));
        Assert.Equal(melt, l.MeltC(l.DisplayC(melt, flow), flow), 1e-6);
    }, iter: 400);

    [Fact]
    public void Water_comes_with_hours_and_goes_in_the_dryer() =>
        Gen.Select(Gen.ULong, Gen.Double[1, 500], Gen.Double[20, 90])
            .Sample(
                (seed, hours, humidity) =>
                {
                    var dry = HiddenMaterial.Draw("PA", seed);
                    var damp = dry.After(hours, humidity);
                    Assert.InRange(damp.Moisture, 0, 1);
                    Assert.True(damp.Moisture > dry.Moisture);
                    Assert.True(damp.After(5, humidity).Moisture >= damp.Moisture);
                    var bay = new DryerBay(seed);
                    Assert.True(bay.Dry(damp, 70, 6).Moisture < damp.Moisture);
                    Assert.True(bay.Dry(damp, 70, 10).Moisture < bay.Dry(damp, 70, 6).Moisture);
                    Assert.True(bay.Dry(damp, 80, 6).Moisture < bay.Dry(damp, 60, 6).Moisture);
                    Assert.Equal(bay.InsideC(80), bay.InsideC(200));
                },
                iter: 100);

    [Fact]
    public void Waves_come_with_speed_and_uneven_lines_with_a_width_that_is_none_for_the_nozzle() =>
        Gen.Select(Gen.ULong, Gen.Double[0.2, 1.2]).Sample((seed, nozzle) =>
        {
            var l = new Laws(HiddenMaterial.Draw("PLA", seed), HiddenMachine.Draw(seed, nozzle));
            Assert.Equal(0, l.WavesMm(0));
            Assert.True(l.WavesMm(60) < l.WavesMm(90));
            // Plain where the frame swings, hardly there at half of it.
            Assert.Equal(Laws.WavesScaleMm, l.WavesMm(l.Machine.SwingsMmPerS), 1e-9);
            Assert.True(l.WavesMm(l.Machine.SwingsMmPerS / 2) < 0.13 * Laws.WavesScaleMm);
            var usual = l.UnevenMm(1.1 * nozzle);
            Assert.True(usual < 0.01 * nozzle);
            Assert.True(l.UnevenMm(0.85 * nozzle) > 5 * usual);
            Assert.True(l.UnevenMm(1.6 * nozzle) > 5 * usual);
            Assert.Equal(0, l.UnevenMm(0));
        }, iter: 100);

    [Fact]
    public void Foam_peaks_and_solid_plastic_does_not()
    {
        var foam = new Laws(HiddenMaterial.Draw("foaming PLA", 4), HiddenMachine.Draw(1));
        var at = Enumerable.Range(190, 90).MaxBy(c => foam.Expansion(c, 2));
        Assert.InRange(at, foam.Material.FoamC - 1, foam.Material.FoamC + 1);
        Assert.InRange(foam.Expansion(at, 2), 1.5, 3.5);
        Assert.True(foam.Expansion(at, 8) < foam.Expansion(at, 2));
        Assert.Equal(1, new Laws(HiddenMaterial.Draw("PLA", 4), HiddenMachine.Draw(1)).Expansion(240, 2));
    }

    [Fact]
    public void A_calliper_scatters_about_the_truth_within_its_resolution()
    {
        var c = new Calliper(3);
        var read = Enumerable.Range(0, 400).Select(_ => c.Measure(0.443).Value).ToList();
        Assert.InRange(read.Average(), 0.43, 0.456);
        Assert.All(read, r => Assert.Equal(r, Math.Round(r, 2)));
        Assert.True(read.Distinct().Count() > 2);
        Assert.Equal(
            read.Take(5), Enumerable.Range(0, 5).Select(_ => 0)
                .Aggregate((Again: new Calliper(3), List: new List<double>()), (a, _) =>
                {
                    a.List.Add(a.Again.Measure(0.443).Value);
                    return a;
                }).List);
    }

    [Theory]
    [InlineData(0.1)]
    [InlineData(0.01)]
    [InlineData(0.001)]
    public void A_scale_shows_whole_steps_drifts_and_is_set_to_zero(double resolution)
    {
        var s = new Scale(5, resolution);
        for (var i = 0; i < 400; i++)
            s.Weigh(10);
        var drifted = Enumerable.Range(0, 20).Average(_ => s.Weigh(10).Value) - 10;
        s.Tare();
        var fresh = Math.Abs(s.Weigh(10).Value - 10);
        Assert.True(Math.Abs(drifted) > resolution);
        Assert.True(fresh <= 3 * resolution);
        Assert.Equal(0, Math.IEEERemainder(s.Weigh(3.14159).Value, resolution), 6);
    }

    [Fact]
    public void A_rig_scatters_by_a_tenth_to_a_seventh() => Gen.ULong.Sample(seed =>
    {
        var rig = new PullRig(seed);
        var f = Enumerable.Range(0, 600).Select(_ => rig.Pull(30, 20).Value).ToList();
        var (mean, sd) = (f.Average(), Math.Sqrt(f.Average(x => (x - f.Average()) * (x - f.Average()))));
        Assert.InRange(mean, 560, 640);
        Assert.InRange(sd / mean, 0.085, 0.17);
    }, iter: 10);

    [Fact]
    public void Eyes_give_whole_scores_with_a_habit_that_stays()
    {
        var clean = new PieceLook { Layers = 50, Bond = 1 };
        var bad = new PieceLook { Layers = 50, SagMm = 4, CurlMm = 2, StringsPer10Mm = 80, RoughMm = 0.3, Bond = 0.1 };
        for (var seed = 0UL; seed < 40; seed++)
        {
            var eyes = new Eyes(seed);
            foreach (var a in Eyes.Aspects)
            {
                var (good, poor) = (eyes.Score(clean, a, 1)!.Value, eyes.Score(bad, a, 1)!.Value);
                Assert.Contains(good, new[] { 0.0, 1, 2, 3, 4 });
                Assert.True(good >= 2 && poor <= 2 && good > poor);
                Assert.Equal(good, new Eyes(seed).Score(clean, a, 1)!.Value);
            }
        }

        Assert.Null(new Eyes(1).Score(new PieceLook(), "bridge", 0));
        // The scatter of one person on one thing is about what was asked for.
        var half = new PieceLook { Layers = 50, SagMm = 0.52, Bond = 1 };
        var looks = Enumerable.Range(0, 800).Select(i => new Eyes(7, 0.4, 0).Score(half, "bridge", 1, i)!.Value).ToList();
        var mean = looks.Average();
        Assert.InRange(mean, Eyes.Quality(half, "bridge") - 0.15, Eyes.Quality(half, "bridge") + 0.15);
        Assert.InRange(Math.Sqrt(looks.Average(x => (x - mean) * (x - mean))), 0.35, 0.65);
    }

    [Fact]
    public void Scores_turned_into_a_look_are_those_scores_again() => Gen.Int[1, 4].Array[5].Sample(s =>
    {
        var scores = Eyes.Aspects.Zip(s, (a, x) => (a, x)).ToDictionary(p => p.a, p => (double)p.x);
        var look = Eyes.LookOf(scores);
        foreach (var (a, x) in scores)
            Assert.Equal(x, Eyes.Quality(look, a), 1e-6);
    }, iter: 60);

    [Fact]
    public void The_room_is_warmest_in_the_afternoon()
    {
        var room = new RoomAir(9);
        var days = Enumerable.Range(0, 200).Select(d => (Night: room.At(d, 4), Day: room.At(d, 15))).ToList();
        Assert.True(days.Average(d => d.Day.C) > days.Average(d => d.Night.C) + 1.5);
        Assert.True(days.Average(d => d.Day.HumidityPercent) < days.Average(d => d.Night.HumidityPercent));
        Assert.Equal(room.At(5, 10), new RoomAir(9).At(5, 10));
    }

    private static int Dark(PieceLook look, SKRectI where)
    {
        using var picture = SKBitmap.Decode(SectionPicture.Png(look, 11));
        var n = 0;
        for (var y = where.Top; y < where.Bottom; y++)
        {
            for (var x = where.Left; x < where.Right; x++)
                n += picture.GetPixel(x, y).Red < 160 ? 1 : 0;
        }

        return n;
    }

    [Fact]
    public void The_picture_of_a_section_shows_its_faults_where_they_are()
    {
        var clean = new PieceLook { Layers = 50, Bond = 1 };
        var (gap, lintel, post) = (new SKRectI(425, 320, 525, 540), new SKRectI(400, 212, 530, 300), new SKRectI(650, 200, 700, 560));
        Assert.Equal(0, Dark(clean, gap));
        var few = Dark(clean with { Strings = 5, StringMm = 0.06 }, gap);
        Assert.True(few > 100);
        Assert.True(Dark(clean with { Strings = 40, StringMm = 0.06 }, gap) > 2 * few);
        Assert.True(Dark(clean with { SagMm = 2.5 }, lintel) > Dark(clean, lintel));
        Assert.True(Dark(clean with { Bond = 0.15 }, post) > Dark(clean, post) + 500);
        Assert.Equal(SectionPicture.Png(clean, 3), SectionPicture.Png(clean, 3));
        Assert.NotEqual(SectionPicture.Png(clean, 3), SectionPicture.Png(clean, 4));
        using var nothing = SKBitmap.Decode(SectionPicture.Png(new PieceLook(), 3));
        Assert.Equal(960, nothing.Width);
    }

    [Fact]
    public void A_stream_belongs_to_its_name_not_to_its_turn()
    {
        var a = new Chance(5);
        a.Uniform();
        Assert.Equal(new Chance(5).Of("x", 3).Uniform(), a.Of("x", 3).Uniform());
        Assert.NotEqual(a.Of("x", 3).Uniform(), a.Of("x", 4).Uniform());
        var n = new Chance(8);
        var list = Enumerable.Range(0, 20000).Select(_ => n.Normal(2, 3)).ToList();
        Assert.InRange(list.Average(), 1.9, 2.1);
        Assert.InRange(Math.Sqrt(list.Average(x => (x - 2) * (x - 2))), 2.9, 3.1);
        Assert.InRange(Enumerable.Range(0, 5000).Average(_ => n.Count(3.5)), 3.3, 3.7);
        Assert.InRange(Enumerable.Range(0, 5000).Average(_ => n.Count(120)), 119, 121);
        // The same on every machine, for ever: names of filaments become seeds by it.
        Assert.Equal(3282002513664627671UL, Chance.Hash("Brackenfell/Heath"));
        Assert.NotEqual(Chance.Hash("Brackenfell/Heath"), Chance.Hash("Brackenfell/Sill"));
    }
}

/// <summary>Bond, warp, release and the rig of the simulated bench: what must fall falls, and what fails says so.</summary>
public class SimulatedStrengthTests
{
    private static Gen<(HiddenMaterial Material, HiddenMachine Machine)> Any =>
        Gen.Select(Gen.Int[0, FamilyTraits.All.Count - 1], Gen.ULong, Gen.ULong)
            .Select((family, a, b) => (HiddenMaterial.Draw(FamilyTraits.All[family].Name, a), HiddenMachine.Draw(b)));

    [Fact]
    public void Corners_lift_less_in_a_box_on_a_brim_and_shorter_and_later_moments_never_less() =>
        Gen.Select(Any, Gen.Double[60, 250], Gen.Double[50, 110], Gen.Double[12, 28]).Sample((x, length, bed, room) =>
        {
            var open = new Laws(x.Material, x.Machine with { Shelter = 0 }, room);
            var boxed = new Laws(x.Material, x.Machine with { Shelter = 0.75 }, room);
            var colder = new Laws(x.Material, x.Machine with { Shelter = 0 }, room - 6);
            var last = 0.0;
            foreach (var moment in new[] { "during", "cooled", "released", "next-day" })
            {
                var mm = open.WarpMm(moment, length, bed, 0, room + 8);
                Assert.True(mm >= last);
                Assert.True(boxed.WarpMm(moment, length, bed, 0, room + 8) < mm);
                Assert.True(open.WarpMm(moment, length / 2, bed, 0, room + 8) < mm);
                // A thicker section pulls more; a usual one as it did before anybody said how thick it is.
                Assert.True(open.WarpMm(moment, length, bed, 0, room + 8, 6) > mm);
                Assert.Equal(mm, open.WarpMm(moment, length, bed, 0, room + 8, 3));
                Assert.True(colder.WarpMm(moment, length, bed, 0, room + 8) > mm);
                last = mm;
            }

            // A brim holds it down until it is taken off; taken off hot, it springs up more.
            Assert.True(open.WarpMm("cooled", length, bed, 8, room + 8) < open.WarpMm("cooled", length, bed, 0, room + 8));
            Assert.True(open.WarpMm("released", length, bed, 0, room + 50) > open.WarpMm("released", length, bed, 0, room + 5));
        });

    [Fact]
    public void What_shrinks_most_lets_go_of_the_bed_soonest() => Gen.ULong.Sample(seed =>
    {
        double Of(string family) => new Laws(HiddenMaterial.Draw(family, seed), HiddenMachine.Draw(seed)).ReleaseC;
        Assert.True(Of("ABS") > Of("PLA"));
        Assert.InRange(Of("ASA"), 35, 80);
    }, iter: 50);

    [Fact]
    public void A_rig_drifts_and_its_clamps_fail_as_often_as_it_is_told() => Gen.ULong.Sample(seed =>
    {
        var steady = new PullRig(seed);
        var (worn, n) = (new PullRig(seed, 0.5, 0.1), 800);
        var all = Enumerable.Range(0, n).Select(_ => worn.PullUntil(30, 12.57)).ToList();
        Assert.InRange(all.Count(x => x.Broke != "layer") / (double)n, 0.06, 0.14);
        Assert.Contains(all, x => x.Broke == "slip");
        Assert.Contains(all, x => x.Broke == "clamp");
        // 0.995 to the hundredth is 0.61.
        var drift = new PullRig(seed, 0.5);
        var forces = Enumerable.Range(0, 400).Select(_ => drift.Pull(30, 12.57).Value).ToList();
        Assert.InRange(forces.Skip(300).Average() / forces.Take(100).Average(), 0.19, 0.26);
        Assert.InRange(steady.Scatter, 0.1, 0.15);
    }, iter: 10);

    [Fact]
    public void The_air_in_a_box_follows_the_bed_and_never_reaches_it() => Gen.Select(Gen.Double[10, 30], Gen.Double[50, 120], Gen.Double[60, 20_000])
        .Sample((room, bed, seconds) =>
        {
            double Of(string enclosure, double bedC, double s) => HiddenMachine.Draw(5, enclosure: enclosure).ChamberC(room, bedC, s);
            // In the open, or behind a shield alone, it is the room's.
            Assert.Equal(room, Of("none", bed, seconds));
            Assert.Equal(room, Of("draught shield", bed, seconds));
            Assert.True(room < Of("improvised", bed, seconds) && Of("improvised", bed, seconds) < Of("closed", bed, seconds));
            Assert.True(Of("closed", bed, seconds) < Of("heated", bed, seconds) && Of("heated", bed, seconds) < bed);
            Assert.True(Of("closed", bed, seconds) < Of("closed", bed, seconds + 600));
            Assert.True(Of("closed", bed, seconds) < Of("closed", bed + 10, seconds));
            Assert.Equal(room, Of("closed", bed, 0));
        });

    [Fact]
    public void A_thin_part_gives_less_the_longer_its_layers_last_and_the_more_wind_there_is() =>
        Gen.Select(Gen.ULong, Gen.Double[2, 20], Gen.Double[0, 0.8]).Sample((seed, seconds, fan) =>
        {
            var laws = new Laws(HiddenMaterial.Draw("PLA", seed), HiddenMachine.Draw(seed));
            var melt = laws.Material.CentreC;
            Assert.True(laws.SlumpMm(melt, seconds, fan) > laws.SlumpMm(melt, seconds + 1, fan));
            Assert.True(laws.SlumpMm(melt, seconds, fan) >= laws.SlumpMm(melt, seconds, fan + 0.2));
            Assert.True(laws.SlumpMm(melt + 15, seconds, fan) >= laws.SlumpMm(melt, seconds, fan));
        });
}
