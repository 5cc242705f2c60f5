using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>What a written file does, read back without the code that wrote it.</summary>
public class WrittenFileTests
{
    private static readonly Gen<(TowerRequest Request, Machine Machine, PrintSettings Settings)> AnyTower =
        from machine in Gen.Int[0, 2].Select(i => new[] { Machines.Dunnock, Machines.Ptarmigan, Machines.Whimbrel }[i])
        from nozzle in Gen.Int[0, 5].Select(i => new[] { 0.2m, 0.25m, 0.4m, 0.6m, 0.8m, 1.2m }[i])
        from share in Gen.Int[5, 15]
        from sections in Gen.Int[2, 4]
        from step in Gen.Int[1, 10]
        from per in Gen.Int[12, 30]
        from angle in Gen.Int[25, 65]
        from walls in Gen.Int[1, 4]
        from flags in Gen.Int[0, 63]
        from gap in Gen.Int[0, 6]
        let layer = Math.Round(nozzle * share / 20m, 2)
        let m = machine with { NozzleDiameterMm = (double)nozzle, RelativeE = (flags & 1) == 0 }
        select (new TowerRequest
        {
            HottestC = 225,
            CoolestC = 225 - (sections - 1) * step,
            StepC = step,
            LayerHeightMm = layer,
            FirstLayerHeightMm = layer,
            BaseHeightMm = layer * 3,
            SectionHeightMm = Math.Max(2, layer * per) is var h ? Math.Ceiling(h / layer) * layer : 0,
            NozzleDiameterMm = nozzle,
            BedHeightMm = (decimal)m.HeightMm,
            SlabAngleDeg = angle,
            ReedGapMm = gap == 0 ? null : 8 + 2 * gap,
            Brim = (flags & 2) > 0,
            Separate = (flags & 12) == 12 && nozzle <= 0.6m,
            WaitAtChanges = (flags & 16) > 0,
            Print = new(walls, (flags & 32) > 0, (flags & 4) > 0),
        }, m, Machines.Settings(m) with { ZHopMm = (flags & 8) > 0 ? 0.3 : 0, WipeMm = flags % 3 });

    [Fact]
    public void Every_file_keeps_bed_height_limits_and_feeds_what_its_geometry_holds()
    {
        var made = 0;
        AnyTower.Sample(t => OneFile(t, () => Interlocked.Increment(ref made)), iter: 60);
        // Most of the random towers fit their bed: a generator that makes none would prove nothing.
        Assert.True(made > 30, $"only {made} of 60 towers were made");
    }

    [Theory]
    [InlineData("dzhplIMMM4Y1")]
    [InlineData("5tvwrhJRuln1")]
    public void A_line_shorter_than_the_file_can_say_is_no_push_in_place(string seed) => AnyTower.Sample(t => OneFile(t, () => { }), seed: seed, iter: 1);

    private static void OneFile((TowerRequest Request, Machine Machine, PrintSettings Settings) t, Action made)
    {
        var planned = TowerPlanning.Plan(t.Request).Plan;
        if (planned is null)
            return;
        var (job, errors) = TowerPiece.Make(planned, t.Machine, t.Settings, "any", TestMemory.Shared);
        if (job is null)
        {
            // Too large for this bed: said at a field.
            Assert.All(errors, e => Assert.NotEmpty(e.Message));
            return;
        }

        var text = Machines.Text(job);
        var file = new PrintedFile(text);
        Assert.Empty(file.Unknown);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), t.Machine));
        var m = t.Machine;
        var (minX, minY) = m.OriginInMiddle ? (-m.BedXMm / 2, -m.BedYMm / 2) : (0, 0);
        Assert.All(file.Print, s =>
        {
            Assert.InRange(s.X, minX, minX + m.BedXMm);
            Assert.InRange(s.Y, minY, minY + m.BedYMm);
            Assert.InRange(s.Z, 0, m.HeightMm);
            Assert.True(s.MmPerMin <= m.MaxSpeedMmPerS * 60 + 1e-6);
            if (s.Fed > 0)
                Assert.InRange(s.SetC, m.Limits.MinC, m.Limits.MaxC);
        });
        var area = job.Settings.FilamentAreaMm2;
        for (var p = 0; p < job.Request.Pieces.Count; p++)
        {
            foreach (var layer in job.Request.Pieces[p].Layers)
            {
                var want = layer.Region.Area * layer.HeightMm * job.Settings.ExtrusionMultiplier;
                // Round flanks leave out half their ends along every outline.
                var flanks = Bead.RoundEnds(job.Settings.Bead, layer.HeightMm) / 2 * layer.Region.Length / layer.Region.Area;
                Assert.InRange(file.Laid(p, layer.Number) * area / want, 0.98 - flanks, 1.02);
            }
        }

        foreach (var checkpoint in planned.Checkpoints)
            Assert.All(
                file.Print.Where(s =>
                    s is { Moves: true, Fed: > 0 } && s.Feature != "prime line" && s.Layer == checkpoint.Layer && s.Piece == (checkpoint.Piece ?? 0)),
                s => Assert.Equal((double)checkpoint.TemperatureC, s.SetC));
        Balanced(file, job.Settings);
        made();
    }

    /// <summary>Pulled back and pushed forward in turn, by the same length; no travel beyond a neighbouring line without it.</summary>
    private static void Balanced(PrintedFile file, PrintSettings s)
    {
        var back = 0.0;
        foreach (var step in file.Print)
        {
            if (step.Fed < 0 || (step.Fed > 0 && !step.Moves))
                back -= step.Fed;
            // Rounding is carried within pulling and pushing: no drift over a thousand of them.
            Assert.InRange(back, -1.1e-5, s.RetractionLengthMm + 1.1e-5);
            if (step is { Moves: true, Fed: > 0 })
                Assert.True(back < 1.1e-5, $"line {step.Line}: lays a line while pulled back");
            if (step is { Moves: true, Fed: 0 } && step.Feature != "prime line")
                Assert.True(
                    back > s.RetractionLengthMm - 1e-3 || step.Length <= 2.05 * s.LineWidthMm, $"line {step.Line}: {step.Length:0.00} mm without retraction");
        }

        Assert.InRange(back, s.RetractionLengthMm - 1e-3, s.RetractionLengthMm + 1e-3);
    }

    [Fact]
    public void Each_section_has_its_temperature_at_its_planned_height()
    {
        var (plan, job) = Machines.Job(Machines.Tower(Machines.Dunnock, 230, 190), Machines.Dunnock);
        var file = new PrintedFile(Machines.Text(job));
        foreach (var section in plan.Sections)
        {
            var inside = file.Print.Where(s => s is { Moves: true, Fed: > 0 } && s.Z > (double)section.FromZMm! + 0.01 && s.Z < (double)section.ToZMm! + 0.01)
                .ToList();
            Assert.NotEmpty(inside);
            Assert.All(inside, s => Assert.Equal((double)section.TemperatureC, s.SetC));
        }

        // One change a section, each with its comment, none waited for.
        var changes = file.Lines.Where(l => l.StartsWith("M104", StringComparison.Ordinal) && l.Contains("from layer", StringComparison.Ordinal)).ToList();
        Assert.Equal(8, changes.Count);
        Assert.Equal("M104 S225 ; section 2 from layer 35, z 6.8 up: 225 C", changes[0]);
        Assert.DoesNotContain(file.Heat.Skip(1).Where(h => h.Z > 1), h => h.Command == "M109");
        Assert.DoesNotContain(file.Lines, l => l.StartsWith("G4", StringComparison.Ordinal));
    }

    [Fact]
    public void Waiting_happens_beside_the_piece_and_only_where_asked()
    {
        var (_, job) = Machines.Job(Machines.Tower(Machines.Dunnock) with { WaitAtChanges = true }, Machines.Dunnock);
        var text = Machines.Text(job);
        var file = new PrintedFile(text);
        var waits = file.Lines.Select((l, i) => (l, i)).Where(x => x.l.StartsWith("M109 R", StringComparison.Ordinal)).ToList();
        Assert.Equal(2, waits.Count);
        var piece = job.Layout.Pieces[0];
        foreach (var (_, i) in waits)
        {
            var at = file.Steps.Last(s => s.Line <= i);
            Assert.True(at.X < piece.X && at.Y < piece.Y, "the nozzle waits over the piece");
        }

        Assert.Contains(job.Warnings, w => w.Kind == PlanWarningKind.WaitsAtChanges);
    }

    [Fact]
    public void No_travel_crosses_a_bridge_or_a_post_without_retraction()
    {
        var (plan, job) = Machines.Job(Machines.Tower(Machines.Dunnock, section: 10), Machines.Dunnock);
        var file = new PrintedFile(Machines.Text(job));
        var stile = TowerPiece.StileOf(plan.Request);
        var p = job.Layout.Pieces[0];
        var (from, to) = (p.X + stile.WindowX, p.X + stile.RightPostX);
        var back = 0.0;
        var crossings = 0;
        foreach (var s in file.Print)
        {
            if (s.Fed < 0 || (s.Fed > 0 && !s.Moves))
                back -= s.Fed;
            if (s is not { Moves: true, Fed: 0 } || s.Feature == "prime line")
                continue;
            var (left, right) = (Math.Min(s.X0, s.X), Math.Max(s.X0, s.X));
            // Through a post and out of it, or over more than two lines of the window.
            var crossesPost = (left < from - 0.5 && right > from + 0.5) || (left < to - 0.5 && right > to + 0.5);
            var crossesWindow = Math.Min(right, to) - Math.Max(left, from) > 1;
            if (crossesPost || crossesWindow)
            {
                crossings++;
                Assert.True(back > 3.99, $"line {s.Line}: travels from {s.X0:0.0} to {s.X:0.0} without retraction");
            }
        }

        Assert.True(crossings > 100);
    }

    [Fact]
    public void The_bridge_is_spanned_from_post_to_post_at_its_own_speed_and_fan()
    {
        var m = Machines.Dunnock;
        var s = Machines.Settings(m, "PETG");
        var (plan, job) = Machines.Job(Machines.Tower(m, section: 10), m, s);
        var first =
            plan.BaseLayers + plan.LayersPerSection!.Value - TowerOfStiles.LintelLayers(TowerPiece.StileOf(plan.Request), TowerPiece.LayersOf(plan)) + 1;
        var layer = job.Layers[first - 1];
        var stile = TowerPiece.StileOf(plan.Request);
        var long_lines = layer.Moves.Zip(layer.Moves.Skip(1))
            .Where(x => x.Second is { Kind: MoveKind.Extrude, Role: PathRole.Bridge } && Math.Abs(x.Second.X - x.First.X) > stile.BridgeSpanMm - 0.5).ToList();
        // Every line of the window's depth, and the walls at its front and back.
        Assert.InRange(long_lines.Count, (int)(stile.DepthMm / s.LineWidthMm) - 3, (int)(stile.DepthMm / s.LineWidthMm) + 3);
        Assert.All(long_lines, l => Assert.Equal(l.First.Y, l.Second.Y, 3));
        Assert.All(layer.Moves.Where(x => x is { Kind: MoveKind.Extrude, Role: PathRole.Bridge }), x => Assert.Equal(s.BridgeSpeedMmPerS, x.Speed));
        Assert.Contains(layer.Moves, x => x.Kind == MoveKind.Fan && x.E == s.BridgeFanPercent);
        Assert.DoesNotContain(job.Layers[first - 3].Moves, x => x.Role == PathRole.Bridge);
        Assert.DoesNotContain(job.Layers[first + 1].Moves, x => x.Role == PathRole.Bridge);
    }

    [Fact]
    public void Seams_stay_off_what_is_judged()
    {
        var (plan, job) = Machines.Job(Machines.Tower(Machines.Dunnock, section: 10), Machines.Dunnock);
        var stile = TowerPiece.StileOf(plan.Request);
        foreach (var layer in job.Layers.Skip(6).Take(30))
        {
            var starts = layer.Moves.Zip(layer.Moves.Skip(1))
                .Where(x => x.First.Kind == MoveKind.Unretract && x.Second is { Kind: MoveKind.Extrude, Role: PathRole.InnerWall or PathRole.OuterWall });
            Assert.All(starts, x =>
            {
                Assert.False(x.First.X < stile.LeftPostX, $"layer {layer.Number}: a seam on the half-round");
                Assert.False(
                    x.First.X > stile.WindowX + 0.1 && x.First.X < stile.RightPostX - 0.1 && x.First.Y < stile.ReedY,
                    $"layer {layer.Number}: a seam toward the strings");
            });
        }
    }

    [Fact]
    public void Short_layers_are_slowed_to_the_least_time_and_never_below_the_slowest_speed()
    {
        var m = Machines.Dunnock;
        var s = Machines.Settings(m) with { MinLayerTimeS = 30, MinPrintSpeedMmPerS = 12 };
        var (_, job) = Machines.Job(Machines.Tower(m), m, s);
        Assert.All(job.Layers, l => Assert.True(l.Seconds >= 29.9 || l.TooShort));
        Assert.Contains(job.Layers, l => l.Slowed < 1);
        Assert.All(job.Layers.SelectMany(l => l.Moves).Where(x => x.Kind == MoveKind.Extrude), x => Assert.True(x.Speed >= 12 - 1e-9));
        var plain = Machines.Job(Machines.Tower(m), m, s with { MinLayerTimeS = 0 }).Job;
        Assert.All(plain.Layers, l => Assert.Equal(1, l.Slowed));
        Assert.True(plain.Seconds < job.Seconds);
        var rushed = Machines.Job(Machines.Tower(m), m, s with { MinLayerTimeS = 600 }).Job;
        Assert.Contains(rushed.Warnings, w => w.Kind == PlanWarningKind.TooShort && w.Numbers[2] == 12);
    }

    [Fact]
    public void No_line_is_laid_faster_than_the_flow_limit_or_the_machine()
    {
        var m = Machines.Dunnock with { MaxSpeedMmPerS = 45 };
        var profile = new Dictionary<string, double> { ["maxVolumetricFlowMm3PerS"] = 2.5, ["fillSpeedMmPerS"] = 90, ["travelSpeedMmPerS"] = 200 };
        var s = PrintSettings.From(profile, m, null);
        var (_, job) = Machines.Job(Machines.Tower(m), m, s);
        Assert.All(job.Layers.SelectMany(l => l.Moves.Select(x => (Move: x, l.HeightMm))), x =>
        {
            if (x.Move.Kind == MoveKind.Extrude)
                Assert.True(x.Move.Speed * x.Move.Spacing * x.HeightMm <= 2.5 + 1e-9);
            if (x.Move.Kind is MoveKind.Extrude or MoveKind.Travel)
                Assert.True(x.Move.Speed <= 45);
        });
        Assert.Contains(s.Sources, x => x is { Key: "travelSpeedMmPerS", Value: 45 } && x.From.Contains("limit", StringComparison.Ordinal));
    }

    [Fact]
    public void Separate_pieces_stand_apart_and_are_printed_one_after_another_hottest_first()
    {
        var m = Machines.Ptarmigan;
        var (plan, job) = Machines.Job(Machines.Tower(m, 240, 220, 5, 0.3m, 9) with { Separate = true }, m);
        Assert.Equal(5, job.Layout.Pieces.Count);
        var boxes = job.Layout.Pieces.Select(p => { var e = p.Piece.Footprint.Copy(); e.Translate(p.X, p.Y); return e; }).ToList();
        for (var i = 0; i < boxes.Count; i++)
        {
            Assert.True(new Envelope(0, m.BedXMm, 0, m.BedYMm).Contains(boxes[i]));
            Assert.All(boxes.Skip(i + 1), b =>
            {
                Assert.True(boxes[i].Distance(b) >= m.ClearanceMm - 1e-6);
                Assert.True(b.MinY <= boxes[i].MinY + 1e-6, "a later piece stands behind an earlier one");
            });
        }

        var file = new PrintedFile(Machines.Text(job));
        Assert.Equal(
            [240.0, 235, 230, 225, 220], file.Print.Where(s => s is { Moves: true, Fed: > 0 } && s.Feature != "prime line").Select(s => s.SetC).Distinct());
        // Between two pieces the nozzle passes above everything that stands.
        var top = (double)plan.HeightMm!;
        foreach (var (a, b) in file.Print.Zip(file.Print.Skip(1)).Where(x => x.First.Piece != x.Second.Piece))
            Assert.All(file.Print.SkipWhile(s => s != b).TakeWhile(s => s.Fed <= 0).Where(s => s.Length > 20), s => Assert.True(s.Z > top));
        Assert.Equal(plan.Checkpoints.Select(c => c.AtSeconds!.Value).Order(), plan.Checkpoints.Select(c => c.AtSeconds!.Value));
        Assert.Equal(5 * plan.BaseLayers + 5 * plan.LayersPerSection, plan.TotalLayers);
    }

    [Fact]
    public void Minutes_grams_and_checkpoint_times_come_from_the_moves()
    {
        var m = Machines.Dunnock;
        var s = Machines.Settings(m) with { DensityGPerCm3 = 1.25, PriceMinorPerKg = 2000 };
        var (plan, job) = Machines.Job(Machines.Tower(m), m, s);
        var file = new PrintedFile(Machines.Text(job));
        // Distance over speed is a lower bound of the time; with 1200 mm/s² it is not far below.
        var least = file.Print.Sum(x =>
            (x.Moves || Math.Abs(x.Z - x.Z0) > 0 ? Math.Sqrt(x.Length * x.Length + Math.Pow(x.Z - x.Z0, 2)) : Math.Abs(x.Fed)) / (x.MmPerMin / 60));
        Assert.InRange(job.Seconds, least * 0.99, least * 1.35);
        var fed = file.Print.Where(x => x is { Moves: true, Fed: > 0 }).Sum(x => x.Fed);
        Assert.Equal(fed, job.FeedMm, 1);
        Assert.Equal(fed * Math.PI * 1.75 * 1.75 / 4 / 1000 * 1.25, job.MassG, 2);
        Assert.Equal(job.MassG * 2, job.CostMinor!.Value, 6);
        Assert.Equal(job.Minutes, plan.Estimate.Minutes);
        Assert.Equal(0, plan.Checkpoints[0].AtSeconds);
        Assert.Equal(Math.Round(job.Layers.Take(34).Sum(l => l.Seconds)), plan.Checkpoints[1].AtSeconds);
        Assert.True(plan.LagLayers![0] == 0 && plan.LagLayers.Skip(1).All(l => l >= 1));
    }

    [Fact]
    public void The_quick_check_is_single_walled_and_about_a_quarter_of_an_hour()
    {
        var m = Machines.Dunnock;
        var s = Machines.Settings(m);
        var size = new CheckPieceSize();
        Assert.Empty(CheckPiece.Check(size, s));
        var (job, errors) = PieceJob.Make(new JobRequest { Pieces = [CheckPiece.Build(size, s, PieceMemory.None)], Temperatures = [new(0, 1, 210, "all of it")] }, m, s);
        Assert.Empty(errors);
        Assert.InRange(job!.Minutes, 10, 18);
        Assert.InRange(job.MassG, 1.5, 5);
        var layer = job.Layers[40];
        var wall = layer.Moves.Where(x => x is { Kind: MoveKind.Extrude } && x.Y < 32.5).Sum(x => x.E) * s.FilamentAreaMm2;
        // One line around: (4 × (30 − 0.44) − (8 − 2π) × (3 − 0)) × 0.44 × 0.2, corners of 3 mm on the centre line.
        var around = 4 * (30 - 0.44) - (8 - 2 * Math.PI) * 3;
        Assert.InRange(wall / (around * 0.44 * 0.2), 0.99, 1.01);
        Assert.Equal(["layerHeightMm", "postGapMm"], CheckPiece.Check(size with { LayerHeightMm = 0.5, PostGapMm = 1 }, s).Select(e => e.Field));
    }

    /// <summary>Trials that write a file of a piece.</summary>
    public static TheoryData<string> WithPieces => [.. TrialCatalogue.All.Where(t => Job(t, Profile([])) is not null).Select(t => t.Kind)];

    private static Machine Warm => Machines.Whimbrel with { ChamberMaxC = 60, Limits = HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 3, null) };

    private static PlanContext Profile(Dictionary<string, double> kept) => new()
    {
        Memory = TestMemory.Shared, Machine = Warm, Settings = PrintSettings.From(kept, Warm, Family.Find("PLA")), Family = Family.Find("PLA"), AdvisedC = new(190, 220), Kept = kept,
        StepsPerMm = 400, Subject = "Heath on Whimbrel 300",
    };

    private static PieceJob? Job(Trial trial, PlanContext c) =>
        trial.Plan(trial.Propose(c), c).Plan is { WritesFile: true } plan ? trial.Make(plan, c).Job : null;

    [Theory]
    [MemberData(nameof(WithPieces))]
    public void The_profile_is_obeyed_in_the_file_of_every_trial(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var kept = new Dictionary<string, double>
        {
            ["fanPercent"] = 0, ["chamberTemperatureC"] = 45, ["brimWidthMm"] = 5, ["outerWallSpeedMmPerS"] = 22, ["firstLayerSpeedMmPerS"] = 11,
            ["travelSpeedMmPerS"] = 90, ["bedTemperatureC"] = 61, ["firstLayerBedTemperatureC"] = 66,
        };
        var c = Profile(kept);
        foreach (var key in kept.Keys)
            Assert.Equal((kept[key], "profile"), c.Settings!.Sources.Where(x => x.Key == key).Select(x => (x.Value, x.From)).Single());
        var job = Job(trial, c);
        Assert.NotNull(job);
        var text = Machines.Text(job);
        // Fan 0 is no fan, at bridges neither.
        Assert.Equal((0, "as the fan: none"), c.Settings!.Sources.Where(x => x.Key == "bridgeFanPercent").Select(x => ((int)x.Value, x.From)).Single());
        // But where the fan is what is gone through.
        if (kind != "fan-steps")
            Assert.DoesNotMatch(@"(?m)^M106.*S0*[1-9]", text);
        Assert.Matches(@"(?m)^(M141 S45|M191 S45|SET_HEATER_TEMPERATURE .*=45)", text);
        Assert.Matches(@"(?m)^M1[49]0 S66", text);
        // Patches of a first layer have no other layers.
        if (kind != "first-layer")
            Assert.Matches(@"(?m)^M1[49]0 S61", text);
        // First-layer patches and rows stand by their own; every other piece has the brim that the profile asks for.
        if (kind is not ("first-layer" or "foaming-flow" or "wall-flow"))
            Assert.Contains(job.Layers[0].Moves, m => m is { Kind: MoveKind.Extrude, Role: PathRole.Brim });
        var speeds = job.Layers[0].Moves.Where(m => m.Kind == MoveKind.Extrude && m.Role is PathRole.OuterWall or PathRole.InnerWall).Select(m => m.Speed);
        Assert.All(speeds, x => Assert.True(x <= 11 + 1e-6, $"{x} mm/s"));
    }

    [Fact]
    public void A_chamber_without_a_heater_is_aimed_at_and_not_set_and_a_bridge_that_was_kept_stays()
    {
        var kept = new Dictionary<string, double> { ["chamberTemperatureC"] = 40, ["fanPercent"] = 0, ["bridgeFanPercent"] = 30 };
        var s = PrintSettings.From(kept, Machines.Dunnock, null);
        Assert.Null(s.ChamberTemperatureC);
        Assert.Contains(s.Sources, x => x.Key == "chamberTemperatureC" && x.From.Contains("no chamber heater", StringComparison.Ordinal));
        Assert.Equal((0, 30), (s.FanPercent, s.BridgeFanPercent));
    }

    [Fact]
    public void The_feed_is_measured_without_the_flow_override_that_a_start_code_leaves()
    {
        var (trial, c) = (TrialCatalogue.Get("extruder-feed"), Profile([]) with { StepsPerMm = 93 });
        var with = c with { Machine = c.Machine! with { StartCode = c.Machine.StartCode + "\nM221 S94" } };
        ITrialPlan Planned(PlanContext context) => trial.Plan(trial.Propose(context), context).Plan!;
        Assert.Contains(new(PlanWarningKind.OverrideInStart, [94], [c.Machine!.Name]), Planned(with).Warnings);
        Assert.DoesNotContain(Planned(c).Warnings, w => w.Kind == PlanWarningKind.OverrideInStart);
        var lines = trial.Lines(Planned(with), with)!.Value.Lines!.ToList();
        var (reset, measured) = (lines.FindIndex(l => l.StartsWith("M221 S100", StringComparison.Ordinal)), lines.FindIndex(l => l.StartsWith("G1 E", StringComparison.Ordinal)));
        Assert.InRange(reset, 0, measured - 1);
    }

    [Theory]
    [InlineData("wall-flow")]
    [InlineData("surface-flow")]
    [InlineData("foaming-flow")]
    [InlineData("flow-limit-steps")]
    [InlineData("flow-limit-rising")]
    [InlineData("flow-limit-weighed")]
    public void A_flow_override_left_in_the_start_code_is_asked_about_in_every_trial_whose_result_it_moves(string kind)
    {
        var (trial, c) = (TrialCatalogue.Get(kind), Profile([]));
        var with = c with { Machine = c.Machine! with { StartCode = c.Machine.StartCode + "\nM221 S94" } };
        Assert.True(trial.IsShown(FlowOverride.Answer, with));
        Assert.False(trial.IsShown(FlowOverride.Answer, c));
        Assert.Contains(trial.Plan(trial.Propose(with), with).Errors, e => e.Field == FlowOverride.Answer && e.Message.Contains("94 %", StringComparison.Ordinal));
        var answered = trial.Propose(with);
        answered[FlowOverride.Answer] = FlowOverride.Goes;
        var plan = trial.Plan(answered, with).Plan!;
        Assert.Equal(94m, trial.ValuesOf(plan).Number(FlowOverride.Percent));
        // Planned again for a start code that leaves none, nothing of it is left.
        Assert.Equal(100m, trial.ValuesOf(trial.Plan(trial.ValuesOf(plan), c).Plan!).Number(FlowOverride.Percent));
    }
}
