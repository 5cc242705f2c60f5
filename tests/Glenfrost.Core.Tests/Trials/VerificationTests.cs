using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.Verification;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>The verification pieces: their shapes by measure, what passes, and what that confirms and what not.</summary>
public class VerificationTests
{
    private static Geometry At(Piece piece, double mm) => piece.Layers.First(l => l.TopMm >= mm - 1e-9).Region;

    [Fact]
    public void The_vane_is_what_its_drawing_says()
    {
        var s = new VaneSize();
        var piece = SmallVane.Build(s, TestMemory.Shared);
        var parts = s.Parts.ToDictionary(p => p.Word);
        Assert.Equal(s.Layers, piece.Layers.Count);
        Assert.Equal(s.HeightMm, piece.HeightMm, 6);
        Assert.Equal(Enumerable.Range(0, s.Parts.Count), piece.Layers.Select(l => l.Section!.Value).Distinct());
        // The foot: 27 x 14 mm, and 358 and 609 cut out of its front by two lines.
        Assert.Equal(27 * 14, At(piece, 0.2).Area, 1);
        var cut = At(piece, 2.6);
        Assert.InRange(27 * 14 - cut.Area, 3, 14);
        Assert.All(cut.Coordinates.Where(c => c.X is > 1 and < 26), c => Assert.True(c.Y is <= 0.89 or >= 13.9));
        // Halfway up its hole each post of 6 mm is parted by 5 mm: two times 6 x 9 mm, and the wall of two lines.
        var house = parts[VaneSize.House];
        Assert.Equal(2 * 6 * 9 + 0.88 * 8.4, At(piece, house.FromMm + s.HoleAtMm).Area, 0);
        Assert.Single(piece.Layers.First(l => l.TopMm > house.FromMm + 1).Walls);
        Assert.Empty(piece.Layers.First(l => l.TopMm > house.FromMm + s.FinMm + 0.3).Walls);
        // The deck spans 12 mm of air and is held by posts that are whole again.
        Assert.Equal(24 * 14, At(piece, parts[VaneSize.Deck].FromMm + 0.2).Area, 1);
        Assert.Equal(2 * 6 * 14, At(piece, house.ToMm).Area, 1);
        // Each eave leans so far out in a layer: 0.2 mm times the tangent of its angle.
        foreach (var lean in VaneSize.LeansDeg)
        {
            var from = parts[VaneSize.Eave(lean)].FromMm;
            double Radius(double mm) => Math.Sqrt(At(piece, mm).Area / Math.PI);
            Assert.Equal(0.2 * Math.Tan(lean * Math.PI / 180), Radius(from + 0.8) - Radius(from + 0.6), 2);
            Assert.Equal(s.MastMm, Radius(parts[VaneSize.Eave(lean)].ToMm), 2);
        }

        Assert.InRange(At(piece, s.HeightMm).Area, Math.PI * 0.36 * 0.36, Math.PI * 0.42 * 0.42);
    }

    [Theory]
    [InlineData(0.25, 0.28, 0.1)]
    [InlineData(0.4, 0.44, 0.32)]
    [InlineData(0.8, 0.9, 0.4)]
    [InlineData(1.2, 1.4, 0.7)]
    public void Every_layer_of_either_piece_stands_on_the_one_beneath_or_is_a_bridge_or_leans_as_its_eave(double nozzle, double line, double layer)
    {
        var vane = SmallVane.Build(new(nozzle, line, layer), TestMemory.Shared);
        var clip = GaugeClip.Build(new(10, 0.2, nozzle, layer), TestMemory.Shared);
        foreach (var (piece, reach) in new[] { (vane, Math.Tan(65 * Math.PI / 180) * layer), (clip, 0) })
        {
            Assert.All(piece.Layers, l => Assert.True(l.Region.IsValid && !l.Region.IsEmpty, $"{piece.Name} layer {l.Number}"));
            for (var i = 1; i < piece.Layers.Count; i++)
            {
                var (under, over) = (piece.Layers[i - 1].Region, piece.Layers[i].Region);
                // Every island is held somewhere.
                Assert.All(piece.Layers[i].Islands, x => Assert.True(x.Shape.Intersects(under), $"{piece.Name} layer {i + 1} hangs in the air"));
                if (piece.Layers[i].Section == piece.Layers[i - 1].Section && piece == vane && piece.Layers[i].Section > 2)
                    Assert.True(over.Difference(under.Buffer(reach + 0.02)).Area < 0.05, $"layer {i + 1} leans more than its eave");
            }
        }
    }

    [Fact]
    public void The_clips_bore_is_the_rod_and_its_play_and_its_mouth_is_narrower()
    {
        var s = new ClipSize(8, 0.2);
        var shape = GaugeClip.Outline(s);
        var (x, y) = s.Middle;
        Assert.IsType<Polygon>(shape);
        Assert.Equal(0, ((Polygon)shape).NumInteriorRings);
        // From side to side through the middle: 8.2 mm of air between 2.4 mm walls.
        var across = Plane.Factory.CreateLineString([new(x - 20, y), new(x + 20, y)]).Intersection(shape);
        Assert.Equal(2 * s.WallMm, across.Length, 2);
        Assert.Equal(s.BoreMm, across.GetGeometryN(1).Coordinates.Min(c => c.X) - across.GetGeometryN(0).Coordinates.Max(c => c.X), 2);
        // A rod of 8 mm lies in it without touching; through its mouth it has to be pushed.
        Assert.True(shape.Distance(Plane.Factory.CreatePoint(Plane.On(x, y))) > 4.09);
        var mouth = Enumerable.Range(0, 80).Select(i => y + 0.05 * i).Min(h =>
        {
            var air = Plane.Factory.CreateLineString([new(x - 6, h), new(x + 6, h)]).Difference(shape);
            return Enumerable.Range(0, air.NumGeometries).Select(air.GetGeometryN).Where(g => g.EnvelopeInternal.Contains(x, h)).Max(g => g.Length);
        });
        Assert.InRange(mouth, 0.7 * 8, 0.95 * 8);
    }

    private static VerificationVerdict Vane(params double?[] scores) => VerificationJudging.Judge(new()
    {
        Zones = [.. scores.Select((s, i) => new PartZone($"zone {i + 1}", s))],
    });

    private static VerificationVerdict Clip(double? rod = 8, double? bore = 8.2, double? bed = 8.1, double? gap = 0.1, double? snap = 4, double? score = 4) =>
        VerificationJudging.Judge(new()
        {
            Piece = VerificationTrial.Clip,
            Zones = [new("all of it", score)],
            Fit = new() { RodMm = rod, BoreMm = bore, BoreAtBedMm = bed, GapMm = gap, Snap = snap },
        });

    [Fact]
    public void A_vane_shows_its_areas_only_where_all_of_it_passes()
    {
        var passed = Vane(4, 3, 3, 4, 3, 3, 4);
        Assert.Equal(PartOutcome.Passed, passed.Outcome);
        Assert.Contains("temperature", passed.Shows);
        Assert.DoesNotContain("flow", passed.Shows);
        Assert.Equal(VerificationTrial.Clip, passed.Next!.Words!["mode"]);
        var failed = Vane(4, 3, 3, 4, 3, 2, 4);
        Assert.Equal(PartOutcome.NotPassed, failed.Outcome);
        Assert.Empty(failed.Shows);
        Assert.Null(failed.Next);
        Assert.Equal(PartOutcome.Insufficient, Vane(4, 3, null, 4, 3, 3, 4).Outcome);
    }

    [Fact]
    public void A_clip_worked_by_hand()
    {
        // 8.2 − 8.0 = 0.2 of play: as asked.
        var fits = Clip();
        Assert.Equal((PartOutcome.Passed, 0.2, 0.0), (fits.Outcome, fits.PlayMm!.Value, fits.BoreOffMm!.Value));
        Assert.Equal(["flow", "first-layer"], fits.Shows);
        // 8.2 − 0.18 wide: 0.02 of play where 0.2 ± 0.15 was asked; the print made it narrow.
        var tight = Clip(bore: 8.02);
        Assert.Equal(PartOutcome.NotPassed, tight.Outcome);
        Assert.Equal(ClipFault.Tight, Assert.Single(tight.Faults));
        Assert.Equal(["poor fit"], tight.Defects);
        Assert.Equal("wall-flow", tight.Suspects[0]);
        Assert.False(tight.RodIsOff);
        // The same play by a rod that is thicker than planned: no fault of the print, nothing is suspected.
        var rod = Clip(rod: 8.18);
        Assert.True(rod is { Outcome: PartOutcome.NotPassed, RodIsOff: true, Defects.Count: 0, Suspects.Count: 0 });
        // Pressed wide at the bed, lifted, loose on its rod.
        Assert.Equal(["elephant foot"], Clip(bed: 7.95).Defects);
        Assert.Equal(["lifted corner"], Clip(gap: 0.35).Defects);
        Assert.Equal(ClipFault.Loose, Assert.Single(Clip(bore: 8.4, bed: 8.3).Faults));
        Assert.Equal(ClipFault.Snap, Assert.Single(Clip(snap: 2).Faults));
        // Limits belong to what passes.
        Assert.Equal(PartOutcome.Passed, Clip(bore: 8.35, bed: 8.3).Outcome);
        Assert.True(Clip(bore: 8.35, bed: 8.3).FitClose);
        Assert.Equal(PartOutcome.Passed, Clip(gap: 0.3).Outcome);
    }

    [Fact]
    public void What_nobody_measured_passes_nothing_and_shows_nothing()
    {
        Assert.Equal(PartOutcome.Insufficient, Clip(rod: null).Outcome);
        Assert.Equal([ClipMissing.Rod, ClipMissing.Bore], Clip(rod: null, bore: null).Missing);
        Assert.Equal(PartOutcome.Insufficient, Clip(snap: null).Outcome);
        Assert.Equal(PartOutcome.Insufficient, Clip(score: null).Outcome);
        // Neither bore at the bed nor gap are waited for; without them it says nothing of the first layer.
        Assert.Equal(["flow"], Clip(bed: null).Shows);
        Assert.Equal(["flow"], Clip(gap: null).Shows);
        // What is wrong already decides, whatever is missing.
        Assert.Equal(PartOutcome.NotPassed, Clip(snap: null, bore: 8.6).Outcome);
    }

    private static ProfileSetting Setting(string key, double value, double? half, SettingState state = SettingState.Provisional) =>
        new(key, value, half, SettingOrigin.Run, "run 1", state, "one run", Guid.NewGuid());

    [Fact]
    public void What_passed_confirms_what_it_shows_was_printed_with_and_is_known_well_enough()
    {
        ProfileSetting[] profile =
        [
            Setting("nozzleTemperatureC", 212, 4), Setting("retractionLengthMm", 2, 0.3), Setting("pressureAdvance", 0.05, 0.02),
            Setting("extrusionMultiplier", 1, 0.01), Setting("fanPercent", 60, null), Setting("minLayerTimeS", 8, null, SettingState.Doubtful),
            Setting("bridgeFanPercent", 100, null, SettingState.Start), Setting("bridgeSpeedMmPerS", 20, 1),
        ];
        var set = new FactorSet { RunId = Guid.NewGuid() }.With(new Dictionary<string, FactorValue>
        {
            ["nozzleTemperatureC"] = FactorValue.Of(212, FactorSource.Plan), ["retractionLengthMm"] = FactorValue.Of(2.4, FactorSource.Plan),
            ["pressureAdvance"] = FactorValue.Of(0.05, FactorSource.Plan), ["fanPercent"] = FactorValue.Of(60, FactorSource.Plan),
            ["minLayerTimeS"] = FactorValue.Of(8, FactorSource.Plan), ["extrusionMultiplier"] = FactorValue.Of(1, FactorSource.Plan),
        });
        var shown = ShownSettings.Of(VerificationJudging.ShownBy(VerificationTrial.Vane), profile, set).ToDictionary(s => s.Setting.Key, s => s.Why);
        Assert.Equal(
            new Dictionary<string, NotConfirmed>
            {
                ["nozzleTemperatureC"] = NotConfirmed.No,
                // Printed with 2.4, kept at 2: it speaks for 2.4.
                ["retractionLengthMm"] = NotConfirmed.OtherValue,
                // 0.05 ± 0.02 excludes nothing that anybody would set.
                ["pressureAdvance"] = NotConfirmed.TooRough,
                ["fanPercent"] = NotConfirmed.No,
                ["minLayerTimeS"] = NotConfirmed.Doubtful,
                ["bridgeSpeedMmPerS"] = NotConfirmed.NotRecorded,
            }.OrderBy(x => x.Key),
            shown.OrderBy(x => x.Key));
        // Of flow a vane says nothing; a clip does.
        Assert.Equal("extrusionMultiplier", Assert.Single(ShownSettings.Of(["flow"], profile, set)).Setting.Key);
    }
}
