using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Meshes;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>Regions, lines and meshes: worked by hand, then in general.</summary>
public class ShapeTests
{
    private static readonly LineSettings Lines = new(0.4, 0, 2, 45);

    private static double Volume(IEnumerable<PathLine> lines) => lines.Sum(l => l.LengthMm * l.SpacingMm);

    private static IEnumerable<PathLine> All(IslandLines lines) => lines.Walls.Concat(lines.Rest.SelectMany(r => r));

    [Fact]
    public void Bead_areas_worked_by_hand()
    {
        // 0.44 × 0.2 = 0.088; stadium (0.44 − 0.2) × 0.2 + π × 0.1² = 0.048 + 0.031416 = 0.079416.
        Assert.Equal(0.088, Bead.Area(BeadModel.Rectangular, 0.44, 0.2), 9);
        Assert.Equal(0.048 + Math.PI * 0.01, Bead.Area(BeadModel.Stadium, 0.44, 0.2), 9);
        Assert.Equal(0.44, Bead.Width(BeadModel.Stadium, Bead.Spacing(BeadModel.Stadium, 0.44, 0.2), 0.2), 9);
    }

    [Fact]
    public void Two_walls_of_a_square_worked_by_hand()
    {
        // 10 × 10 with lines of 0.4: centres 0.2 and 0.6 inside, so 4 × 9.6 and 4 × 8.8 mm; 8.4 × 8.4 mm is left to fill.
        var lines = IslandPaths.Make(Plane.Rectangle(0, 0, 10, 10), Lines, null, null);
        Assert.Equal(2, lines.Walls.Count);
        Assert.Equal(38.4, lines.Walls[0].LengthMm, 3);
        Assert.Equal(35.2, lines.Walls[1].LengthMm, 3);
        Assert.Equal(PathRole.OuterWall, lines.Walls[0].Role);
        Assert.Equal(8.4 * 8.4, Volume(lines.Rest.SelectMany(r => r)), 2);
        Assert.Equal(100, Volume(All(lines)), 2);
    }

    [Fact]
    public void A_part_under_two_lines_becomes_one_line_of_its_own_width()
    {
        // A bar of 12 × 0.6 mm: no room for two lines of 0.4, so one along its middle, 0.6 wide.
        var lines = IslandPaths.Make(Plane.Rectangle(0, 0, 12, 0.6), Lines, null, null);
        Assert.Empty(lines.Walls);
        var thin = Assert.Single(lines.Rest[0]);
        Assert.Equal(PathRole.ThinLine, thin.Role);
        Assert.All(thin.Points, p => Assert.Equal(0.3, p.Y, 3));
        Assert.Equal(12 * 0.6, Volume([thin]), 2);
    }

    [Fact]
    public void A_bridge_runs_the_way_it_is_held_and_reaches_onto_its_support()
    {
        // Two posts 20 mm apart carry a deck: held left and right, free in front and behind.
        var posts = Plane.Together([Plane.Rectangle(0, 0, 5, 10), Plane.Rectangle(25, 0, 30, 10)]);
        var deck = Plane.Rectangle(0, 0, 30, 10);
        var area = Assert.Single(Bridges.Find(deck, posts, 0.4));
        Assert.Equal(0, area.AngleDeg % 180, 3);
        var lines = IslandPaths.Make(deck, Lines, posts, null);
        var spans = lines.Rest[1];
        Assert.All(spans, l => Assert.True(l.Points.Min(p => p.X) < 4.9 && l.Points.Max(p => p.X) > 25.1));
        Assert.Contains(lines.Walls, w => w.OverAir is { } o && o.Contains(true) && o.Contains(false));
        Assert.Equal(300, Volume(All(lines)), 0);
        // Turned by a quarter, so does the bridge.
        var turned = Bridges.Find(Plane.Rectangle(0, 0, 10, 30), Plane.Together([Plane.Rectangle(0, 0, 10, 5), Plane.Rectangle(0, 25, 10, 30)]), 0.4);
        Assert.Equal(90, Assert.Single(turned).AngleDeg, 3);
    }

    [Fact]
    public void A_leaning_wall_is_no_bridge() =>
        Assert.Empty(Bridges.Find(Plane.Rectangle(0, 0, 10.2, 10), Plane.Rectangle(0, 0, 10, 10), 0.4));

    [Fact]
    public void What_nothing_covers_is_top()
    {
        var lines = IslandPaths.Make(Plane.Rectangle(0, 0, 20, 10), Lines, null, Plane.Rectangle(0, 0, 8, 10));
        Assert.NotEmpty(lines.Rest[3]);
        Assert.All(lines.Rest[3].SelectMany(l => l.Points), p => Assert.True(p.X >= 7.9));
        Assert.Equal(200, Volume(All(lines)), 0);
    }

    [Fact]
    public void Lines_hold_the_area_of_any_rectangle_ring_or_disc() =>
        Gen.Select(Gen.Double[1.5, 40], Gen.Double[1.5, 40], Gen.Double[0.2, 1.2], Gen.Int[1, 4], Gen.Int[0, 2])
            .Sample(
                (w, h, d, walls, kind) =>
                {
                    Polygon p = kind switch
                    {
                        0 => Plane.Rectangle(0, 0, w, h),
                        1 => Plane.Disc(0, 0, w / 2),
                        _ => (Polygon)Plane.Rectangle(0, 0, w + 4 * d, h + 4 * d).Difference(Plane.Rectangle(2 * d, 2 * d, w + 2 * d, h + 2 * d)),
                    };
                    if (Math.Min(p.EnvelopeInternal.Width, p.EnvelopeInternal.Height) < 2 * d)
                        return;
                    // Within 2 %, and a speck of half a line's square, which no whole line fits.
                    Assert.InRange(
                        Volume(All(IslandPaths.Make(p, new(d, 0, walls, 45), null, null))), 0.98 * p.Area - 0.5 * d * d, 1.02 * p.Area + 0.5 * d * d);
                },
                iter: 300);

    [Fact]
    public void Numbers_are_cut_in_three_columns_and_five_rows()
    {
        // A 7: a bar on top, one stroke down. A 10: seven columns with one free between the digits.
        Assert.Equal([(0, 3)], Digits.Row(7, 4));
        Assert.Equal([(2, 3)], Digits.Row(7, 3));
        Assert.Equal(7, Digits.Columns(10));
        Assert.All(Enumerable.Range(1, 60), n => Assert.Equal(5, Enumerable.Range(0, 5).Count(r => Digits.Row(n, r).Count > 0)));
        var seen = Enumerable.Range(1, 60).Select(n => string.Join('/', Enumerable.Range(0, 5).Select(r => string.Join(',', Digits.Row(n, r))))).ToList();
        Assert.Equal(60, seen.Distinct().Count());
    }

    [Fact]
    public void A_tally_counts_ones_at_one_edge_and_tens_at_the_other_with_a_long_notch_for_five()
    {
        string Edge(int n, bool ones) => string.Concat(Enumerable.Range(0, Tally.Rows)
            .SelectMany(r => Tally.Row(n, r).Where(c => ones ? c.To == 1 : c.From == 0).Select(c => c.To - c.From > 0.3 ? 'V' : 'i')));
        // By hand: 3, 5, 9 and 17.
        Assert.Equal(("iii", "V", "Viiii", "Vii"), (Edge(3, true), Edge(5, true), Edge(9, true), Edge(17, true)));
        Assert.Equal(("", "i", "Vii"), (Edge(9, false), Edge(17, false), Edge(70, false)));
        Assert.Equal(99, Enumerable.Range(1, 99).Select(n => (Edge(n, true), Edge(n, false))).Distinct().Count());
        // Between the longest notches of both edges the post stays whole.
        Assert.All(Enumerable.Range(1, 99), n => Assert.All(Enumerable.Range(0, Tally.Rows), r =>
            Assert.True(1 - Tally.Row(n, r).Sum(c => c.To - c.From) > 0.19)));
        Assert.Throws<ArgumentOutOfRangeException>(() => Tally.Row(0, 0));
        Assert.Throws<ArgumentOutOfRangeException>(() => Tally.Row(100, 0));
    }

    [Theory]
    [InlineData(10, 0.2)]
    [InlineData(4, 0.2)]
    [InlineData(8.4, 0.28)]
    [InlineData(24, 0.3)]
    public void A_thumb_counts_the_number_of_a_section_at_its_post(double height, double layer)
    {
        var r = Machines.Tower(Machines.Whimbrel, 230, 185, 5, (decimal)layer, (decimal)height);
        var plan = TowerPlanning.Plan(r).Plan!;
        var stile = TowerPiece.StileOf(r);
        var piece = TowerPiece.PiecesOf(plan, TestMemory.Shared)[0];
        foreach (var section in plan.Sections)
        {
            // Along either edge of the front, from the bottom up: a run of layers in which it is cut is a notch, as deep as it reaches in.
            int Counted(double x, double inward)
            {
                var (sum, before) = (0.0, false);
                foreach (var l in piece.Layers.Where(l => l.Section == section.Index))
                {
                    bool Cut(double at) => !l.Region.Contains(Plane.Factory.CreatePoint(new NetTopologySuite.Geometries.Coordinate(at, stile.NotchDepthMm / 2)));
                    var cut = Cut(x);
                    if (cut && !before)
                        sum += Cut(x + inward * stile.NumberPostMm * 0.3) ? 5 : 1;
                    before = cut;
                }

                return (int)sum;
            }

            Assert.Equal((section.Index + 1) % 10, Counted(stile.WindowX - 0.1, -1));
            Assert.Equal((section.Index + 1) / 10, Counted(stile.LeftPostX + 0.1, 1));
        }
    }

    [Theory]
    [InlineData("temperature-tower")]
    [InlineData("fan-steps")]
    public void A_tower_of_an_older_form_is_another_piece_than_one_of_now(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var c = new PlanContext { Machine = Machines.Whimbrel, Settings = Machines.Settings(Machines.Whimbrel), Family = Core.Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };
        var plan = trial.Plan(trial.Propose(c), c).Plan!;
        // What was stored before there was a second form does not say its form.
        var stored = System.Text.Json.Nodes.JsonNode.Parse(StoredPlan.Write(plan))!.AsObject();
        Assert.True(stored.Remove("stileForm"));
        var older = trial.ReadPlan(stored.ToJsonString());
        string Kind(ITrialPlan p) => trial.FactorsOf(p)[Core.Factors.FactorRegistry.PieceKind].Text!;
        Assert.DoesNotContain("slab", Kind(plan));
        Assert.Equal($"{Kind(plan)}, with a slab", Kind(older));
        Assert.True(trial.Pools(plan, new(c.Family, null, false)).Matters(Core.Factors.FactorRegistry.PieceKind));
        // Any number has its post, or none.
        Assert.Empty(new Stile(0.4, 10, 14).Notches(100, 0.2));
    }

    [Fact]
    public void The_flare_leans_out_alike_on_all_its_sides_and_is_hollow()
    {
        var r = Machines.Tower(Machines.Dunnock, section: 10);
        var stile = TowerPiece.StileOf(r);
        var piece = TowerPiece.PiecesOf(TowerPlanning.Plan(r).Plan!, TestMemory.Shared)[0];
        bool Filled(double z, double radius, double degrees)
        {
            var (at, a) = (z + piece.Layers.First(l => l.Section == 0).TopMm - 0.2, degrees * Math.PI / 180);
            var layer = piece.Layers.First(l => l.TopMm >= at - 1e-9);
            return layer.Region.Contains(Plane.Factory.CreatePoint(
                new NetTopologySuite.Geometries.Coordinate(stile.FlareX + radius * Math.Cos(a), stile.DepthMm / 2 + radius * Math.Sin(a))));
        }

        // At 45 degrees it reaches out as far as it has risen, to the front, the side and the back.
        Assert.All(new[] { -80.0, -45, 0, 45, 80 }, side =>
        {
            var z = stile.FlareFromMm + 4;
            Assert.True(Filled(z, 3.7, side));
            Assert.False(Filled(z, 4.3, side));
            Assert.True(Filled(z, 4 - stile.FlareMm + 0.3, side));
            Assert.False(Filled(z, 4 - stile.FlareMm - 0.3, side));
        });
        Assert.True(stile.FlareReachMm < stile.DepthMm / 2);
    }

    [Fact]
    public void Every_stile_stands_on_what_is_below() =>
        Gen.Select(Gen.Int[2, 4], Gen.Int[25, 65], Gen.Int[0, 4])
            .Sample(
                (sections, angle, n) =>
                {
                    var nozzle = new[] { 0.2m, 0.4m, 0.6m, 0.8m, 1.2m }[n];
                    var r = new TowerRequest
                    {
                        HottestC = 220, CoolestC = 220 - (sections - 1) * 5, StepC = 5, LayerHeightMm = nozzle / 2, FirstLayerHeightMm = nozzle / 2,
                        BaseHeightMm = nozzle, SectionHeightMm = 25 * nozzle, NozzleDiameterMm = nozzle, SlabAngleDeg = angle,
                    };
                    var piece = TowerPiece.PiecesOf(TowerPlanning.Plan(r).Plan!, TestMemory.Shared)[0];
                    foreach (var (below, layer) in piece.Layers.Zip(piece.Layers.Skip(1)))
                    {
                        Assert.Equal(below.TopMm + layer.HeightMm, layer.TopMm, 6);
                        Assert.All(layer.Islands, i =>
                            Assert.True(
                                i.Shape.Intersection(below.Region).Area > 0.2 * Math.Min(i.Shape.Area, 20), $"layer {layer.Number}: an island hangs in the air")
                        );
                    }
                },
                iter: 12);

    [Fact]
    public void The_mesh_is_watertight_and_is_what_the_layers_are() =>
        Gen.Select(Gen.Int[0, 2], Gen.Int[25, 65], Gen.Bool)
            .Sample(
                (n, angle, check) =>
                {
                    var nozzle = new[] { 0.4m, 0.6m, 0.8m }[n];
                    var m = Machines.Ptarmigan with { NozzleDiameterMm = (double)nozzle };
                    var s = Machines.Settings(m);
                    var r = Machines.Tower(m, 220, 215, 5, nozzle / 2, nozzle * 20) with { SlabAngleDeg = angle };
                    var piece = check
                        ? CheckPiece.Build(new CheckPieceSize(LayerHeightMm: (double)nozzle / 2), s, PieceMemory.None)
                        : TowerPiece.PiecesOf(TowerPlanning.Plan(r).Plan!, TestMemory.Shared)[0];
                    var mesh = PieceMesh.Of(piece, s.LineWidthMm);
                    Watertight(mesh);
                    Assert.Equal(piece.Layers.Sum(l => Planner.Foot(l, s).Area * l.HeightMm), mesh.VolumeMm3, 0);
                    foreach (var layer in piece.Layers.Where(l => l.Number % 7 == 3))
                    {
                        var cut = Slice(mesh, layer.TopMm - layer.HeightMm / 2);
                        var region = Planner.Foot(layer, s);
                        Assert.True(
                            cut.SymmetricDifference(region).Area < 0.002 * region.Area + 0.01,
                            $"layer {layer.Number}: mesh {cut.Area:0.00}, toolpaths {region.Area:0.00} mm²");
                    }
                },
                iter: 6);

    /// <summary>Each edge is run through as often in one direction as in the other, and no triangle is a line.</summary>
    private static void Watertight(Mesh mesh)
    {
        var edges = new Dictionary<(int, int), int>();
        foreach (var (a, b, c) in mesh.Triangles)
        {
            Assert.True(a != b && b != c && a != c);
            foreach (var (p, q) in new[] { (a, b), (b, c), (c, a) })
                edges[(Math.Min(p, q), Math.Max(p, q))] = edges.GetValueOrDefault((Math.Min(p, q), Math.Max(p, q))) + (p < q ? 1 : -1);
        }

        Assert.All(edges.Values, v => Assert.Equal(0, v));
        Assert.True(mesh.VolumeMm3 > 0);
    }

    /// <summary>The region in which a horizontal plane cuts the mesh, from its triangles alone.</summary>
    private static Geometry Slice(Mesh mesh, double z)
    {
        var lines = new List<LineString>();
        foreach (var t in mesh.Triangles)
        {
            var corners = new[] { mesh.Vertices[t.A], mesh.Vertices[t.B], mesh.Vertices[t.C] };
            var cut = new List<Coordinate>();
            for (var i = 0; i < 3; i++)
            {
                // From the lower corner up, so that two triangles cut their common edge in the same point.
                var (p, q) = (corners[i], corners[(i + 1) % 3]);
                (p, q) = p.Z <= q.Z ? (p, q) : (q, p);
                if (p.Z < z != q.Z < z)
                {
                    var k = (z - p.Z) / (q.Z - p.Z);
                    cut.Add(Plane.On(p.X + k * (q.X - p.X), p.Y + k * (q.Y - p.Y)));
                }
            }

            if (cut.Count == 2 && cut[0].Distance(cut[1]) > 1e-6)
                lines.Add(Plane.Factory.CreateLineString([.. cut]));
        }

        var polygonizer = new NetTopologySuite.Operation.Polygonize.Polygonizer();
        polygonizer.Add(NetTopologySuite.Operation.Union.UnaryUnionOp.Union(lines.Cast<Geometry>().ToList()));
        // Inside is what a ray leaves through an odd number of walls.
        return NetTopologySuite.Operation.Union.UnaryUnionOp.Union([.. polygonizer.GetPolygons().Where(p =>
        {
            var c = p.InteriorPoint.Coordinate;
            return lines.Count(l => l.StartPoint.Y < c.Y != l.EndPoint.Y < c.Y
                && l.StartPoint.X + (c.Y - l.StartPoint.Y) / (l.EndPoint.Y - l.StartPoint.Y) * (l.EndPoint.X - l.StartPoint.X) > c.X) % 2 == 1;
        })]);
    }

    [Theory]
    [InlineData("reedGapMm", 0.3, "run into one", 2.0)]
    [InlineData("bridgeSpanMm", 9, "no room for two reeds", 16.0)]
    [InlineData("textHeightMm", 14, "can't be told", 7.1)]
    public void What_can_not_be_printed_is_said_at_its_field_with_what_fits(string field, double value, string says, double fits)
    {
        TowerRequest With(decimal v) => field switch
        {
            "reedGapMm" => Machines.Tower(Machines.Dunnock, section: 10) with { ReedGapMm = v },
            "bridgeSpanMm" => Machines.Tower(Machines.Dunnock, section: 10) with { BridgeSpanMm = v },
            _ => Machines.Tower(Machines.Dunnock, section: 10) with { TextHeightMm = v },
        };
        var error = Assert.Single(TowerPlanning.Plan(With((decimal)value)).Errors);
        Assert.Equal(field, error.Field);
        Assert.Contains(says, error.Message);
        Assert.Equal((decimal)fits, Assert.Single(error.Offers).Changes[field]);
        Assert.Empty(TowerPlanning.Plan(With((decimal)fits)).Errors);
    }

    [Fact]
    public void A_piece_beyond_bed_or_carrier_is_said_at_its_field()
    {
        (TowerPlan, IReadOnlyList<Core.Settings.FieldError>) Try(TowerRequest r, Machine m)
        {
            var plan = TowerPlanning.Plan(r).Plan!;
            return (plan, TowerPiece.Make(plan, m, Machines.Settings(m), "x").Errors);
        }

        var tiny = Machines.Dunnock with { BedXMm = 40, BedYMm = 40 };
        var (_, errors) = Try(Machines.Tower(tiny), tiny);
        Assert.Equal("pieceDepthMm", Assert.Single(errors).Field);
        Assert.Contains("34 × 34", errors[0].Message);
        (_, errors) = Try(Machines.Tower(Machines.Dunnock, 230, 190) with { Separate = true }, Machines.Dunnock);
        Assert.Equal("coolestC", Assert.Single(errors).Field);
        Assert.Contains("don't fit", errors[0].Message);
        (_, errors) = Try(Machines.Tower(Machines.Dunnock, section: 30) with { Separate = true }, Machines.Dunnock);
        Assert.Contains("25 mm above the bed", Assert.Single(errors).Message);
        // No room in front of the piece: its skirt primes, and it says so.
        var snug = Machines.Dunnock with { BedXMm = 70, BedYMm = 32 };
        var (_, job) = Machines.Job(Machines.Tower(snug), snug);
        Assert.Null(job.Layout.PrimeFromX);
        Assert.Contains(job.Warnings, w => w.Kind == PlanWarningKind.NoPrimeLine);
    }
}
