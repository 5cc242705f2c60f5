using Glenfrost.Core.Gcode.Writing;
using System.Text.Json;
using System.Text.Json.Serialization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Bench;

/// <summary>What was written.</summary>
/// <param name="SomeRun">A decided tower.</param>
/// <param name="OpenRun">A printed tower with photos that is being read.</param>
public sealed record ArchiveFacts(
    int Pairings, int Runs, int Readings, int Photos, int Findings, int Checks, Guid SomeRun, Guid OpenRun, Guid SomePairing, int ReadingsOfSomeRun,
    string StageOfSomeRun);

/// <summary>
/// Writes years of invented work of a busy bench: 30 filaments on 9 toolheads, 300 runs a year, every other one a tower and the rest of every other trial, with
/// photos, findings and checks. Seeded, so that every run of the bench is alike.
/// </summary>
public static class Archive
{
    public static async Task<ArchiveFacts> WriteAsync(string folder, int years)
    {
        var place = new DataPlace(folder);
        await using var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
        await place.MigrateAsync(db);
        db.ChangeTracker.AutoDetectChangesEnabled = false;
        var random = new Random(7);
        var now = DateTime.UtcNow;
        var person = new Person { Name = "Isla" };
        db.Add(person);
        var filaments = Enumerable.Range(0, 30)
            .Select(i => new Filament
            {
                Maker = "Brackenfell", Line = $"Line {i}", Family = "PLA", ChangedAt = now,
                Sources = [new() { Kind = "reel", NozzleMinC = 190, NozzleMaxC = 230 }],
            }).ToList();
        db.AddRange(filaments);
        var printers = Enumerable.Range(0, 9)
            .Select(i => new Printer { Name = $"Dunnock {i}", ChangedAt = now, Toolheads = [new() { ChangedAt = now, Liner = "metal", FeedCheckedAt = now }] })
            .ToList();
        db.AddRange(printers);
        var pairings = (
            from f in filaments
            from p in printers
            select new Pairing { FilamentId = f.Id, ToolheadId = p.Toolheads[0].Id, NozzleDiameterMm = 0.4, CreatedAt = now, ChangedAt = now }).ToList();
        db.AddRange(pairings);
        await db.SaveChangesAsync();
        var json = new JsonSerializerOptions(JsonSerializerDefaults.Web)
        {
            Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) }, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        };
        var plan = TowerPlanning
            .Plan(
                new TowerRequest
                {
                    HottestC = 230, CoolestC = 190, StepC = 5, SectionHeightMm = 10, BaseHeightMm = 1.2m, LayerHeightMm = 0.2m, FirstLayerHeightMm = 0.2m,
                })
            .Plan!;
        var planJson = JsonSerializer.Serialize(plan, json);
        var kept = new Dictionary<string, double>
        {
            ["nozzleTemperatureC"] = 205, ["bedTemperatureC"] = 55, ["extrusionMultiplier"] = 0.98, ["retractionLengthMm"] = 0.9, ["pressureAdvance"] = 0.05,
            ["maxVolumetricFlowMm3PerS"] = 9, ["fanPercent"] = 100, ["layerHeightMm"] = 0.2, ["lineWidthMm"] = 0.44, ["nozzleOffsetMm"] = -0.1,
        };
        var (readings, photos, findings, checks) = (0, 0, 0, 0);
        var plans = Plans(json);
        for (var month = 0; month < years * 12; month++)
        {
            foreach (var p in printers)
            {
                foreach (var kind in new[] { "nozzle", "idler", "pid", "level" })
                {
                    db.Add(
                        new MachineCheck
                        {
                            PrinterId = p.Id, ToolheadId = kind == "level" ? null : p.Toolheads[0].Id, Kind = kind, At = now.AddDays(-30 * month),
                            PersonId = person.Id, ValuesJson = "{}",
                        });
                    checks++;
                }
            }
        }

        Run some = null!, open = null!;
        var numbers = new Dictionary<(Guid, string), int>();
        for (var i = 0; i < years * 300; i++)
        {
            var p = pairings[i % pairings.Count];
            var at = now.AddDays(-years * 365.0 * (1 - i / (years * 300.0)));
            var (trial, other) = i % 2 == 1 ? plans[i / 2 % plans.Count] : (null, null);
            var kind = trial?.Kind ?? "temperature-tower";
            var onHead = trial?.Subject == TrialSubject.Toolhead;
            var subject = onHead ? p.ToolheadId : p.Id;
            var number = numbers[(subject, kind)] = numbers.GetValueOrDefault((subject, kind)) + 1;
            var run = new Run
            {
                Kind = kind, Number = number, PairingId = onHead ? null : p.Id, ToolheadId = onHead ? p.ToolheadId : null, CreatedAt = at, ChangedAt = at,
                PlanVersion = 1, PlanJson = other ?? planJson, Stage = i % 50 == 0 ? RunStages.Read : RunStages.Decided, PrintedAt = at, ReadAt = at,
                Outcome = "whole", Seed = i, PersonId = person.Id,
            };
            db.Add(run);
            if (trial is null)
            {
                (some, open) = (run, i % 500 == 0 ? run : open);
                foreach (var s in plan.Sections)
                {
                    foreach (var a in Aspects.All)
                        Read(run, s.Index, a, Math.Clamp(4 - (int)(Math.Abs((double)s.TemperatureC - 212) / 7) + random.Next(-1, 2), 0, 4));
                }
            }
            else
            {
                foreach (var (section, aspect) in trial.Grid(trial.ReadPlan(other!)).Wanted)
                    Read(run, section, aspect, random.Next(1, 5));
            }

            for (var n = 0; n < 6; n++, photos++)
                db.Add(
                    new Photo
                    {
                        RunId = run.Id, Key = Guid.CreateVersion7().ToString(), Section = n, Sha256 = Hash(random), SmallSha256 = Hash(random), WidthPx = 1600,
                        HeightPx = 1200, Bytes = 300_000, At = at, PersonId = person.Id,
                    });
            for (var n = 0; n < 2; n++, findings++)
                db.Add(
                    new Finding
                    {
                        RunId = run.Id, PairingId = onHead ? null : p.Id, Section = n, Tag = n == 0 ? "strings" : "tried: helped", Text = "between the reeds",
                        At = at, PersonId = person.Id,
                    });
            if (!onHead)
            {
                var revision = new ProfileRevision
                {
                    PairingId = p.Id, Number = i / pairings.Count + 1, At = at, Why = "Kept from a run", RunId = run.Id, PersonId = person.Id,
                };
                revision.Settings.AddRange(
                    kept.Select(k => new SettingRow
                    {
                        Key = k.Key, Value = k.Key == "nozzleTemperatureC" ? k.Value + random.Next(20) : k.Value, Uncertainty = 4, Origin = SettingOrigin.Run,
                        OriginText = "temperature tower",
                        State = new[] { SettingState.Provisional, SettingState.Confirmed, SettingState.Doubtful }[random.Next(3)], StateWhy = "one run",
                        RunId = run.Id,
                    }));
                db.Add(revision);
            }

            db.Add(new LogEntry { At = at, Kind = "run", Text = $"Run {run.Number} read", Link = $"/runs/{run.Id}", PersonId = person.Id });
            if (i % 100 == 99)
            {
                await db.SaveChangesAsync();
                db.ChangeTracker.Clear();
            }
        }

        await db.SaveChangesAsync();
        // As an upgraded archive stands once its worker is through.
        var upgrade = new Upgrade(db, new WriteGate(), TimeProvider.System, place);
        await upgrade.RecordsAsync();
        while (await upgrade.FactorsAsync(200) > 0)
        {
        }

        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        await db.Runs.Where(r => r.Id == open.Id).ExecuteUpdateAsync(s => s.SetProperty(r => r.Stage, RunStages.Printed));
        return new(
            pairings.Count, years * 300, readings, photos, findings, checks, some.Id, open.Id, pairings[0].Id, plan.Sections.Count * Aspects.All.Count,
            some.Stage);

        void Read(Run run, int section, string aspect, double value)
        {
            db.Add(
                new Reading
                {
                    RunId = run.Id, Key = Guid.CreateVersion7().ToString(), Section = section, Aspect = aspect, Value = value,
                    Entered = value.ToString(System.Globalization.CultureInfo.InvariantCulture), At = run.PrintedAt!.Value, PersonId = person.Id,
                });
            readings++;
        }
    }

    private static string Hash(Random random) =>
        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(BitConverter.GetBytes(random.NextInt64())));

    /// <summary>The proposed plan of every trial but the tower, on a machine that suits it.</summary>
    private static List<(Trial Trial, string Json)> Plans(JsonSerializerOptions json)
    {
        var machine = new Machine
        {
            Name = "Dunnock", BedXMm = 300, BedYMm = 300, HeightMm = 300, Limits = HotendLimits.Of(HotendLiner.AllMetal, 280, null, null, null, 3, null),
        };
        var family = Family.Find("PLA");
        var context = new PlanContext
        {
            Machine = machine, Settings = PrintSettings.From(new Dictionary<string, double>(), machine, family), Family = family, AdvisedC = new Span(190, 230),
            StepsPerMm = 93, DensityGPerCm3 = 1.24,
        };
        return
        [
            .. TrialCatalogue.All.Where(t => t.Kind != "temperature-tower")
                .Select(t =>
                    (
                        t, t.Plan(t.Propose(context), context).Plan is { } plan
                            ? JsonSerializer.Serialize(plan, plan.GetType(), json)
                            : throw new InvalidOperationException($"{t.Kind} can't be planned"))),
        ];
    }
}
