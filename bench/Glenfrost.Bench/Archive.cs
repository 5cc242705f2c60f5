using System.Text.Json;
using System.Text.Json.Serialization;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Bench;

/// <summary>What was written.</summary>
public sealed record ArchiveFacts(int Pairings, int Runs, int Readings, Guid SomeRun, Guid SomePairing, int ReadingsOfSomeRun, string StageOfSomeRun);

/// <summary>Writes years of invented work of a busy bench: 30 filaments on 9 toolheads, 300 towers a year. Seeded, so that every run of the bench is alike.</summary>
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
        var filaments = Enumerable.Range(0, 30).Select(i => new Filament { Maker = "Brackenfell", Line = $"Line {i}", Family = "PLA", ChangedAt = now, Sources = [new() { Kind = "reel", NozzleMinC = 190, NozzleMaxC = 230 }] }).ToList();
        db.AddRange(filaments);
        var printers = Enumerable.Range(0, 9).Select(i => new Printer { Name = $"Dunnock {i}", ChangedAt = now, Toolheads = [new() { ChangedAt = now, Liner = "metal", FeedCheckedAt = now }] }).ToList();
        db.AddRange(printers);
        var pairings = (from f in filaments from p in printers select new Pairing { FilamentId = f.Id, ToolheadId = p.Toolheads[0].Id, NozzleDiameterMm = 0.4, CreatedAt = now, ChangedAt = now }).ToList();
        db.AddRange(pairings);
        await db.SaveChangesAsync();
        var json = new JsonSerializerOptions(JsonSerializerDefaults.Web) { Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) }, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };
        var plan = TowerPlanning.Plan(new TowerRequest { HottestC = 230, CoolestC = 190, StepC = 5, SectionHeightMm = 10, BaseHeightMm = 1.2m, LayerHeightMm = 0.2m, FirstLayerHeightMm = 0.2m }).Plan!;
        var planJson = JsonSerializer.Serialize(plan, json);
        var kept = new Dictionary<string, double> { ["nozzleTemperatureC"] = 205, ["bedTemperatureC"] = 55, ["extrusionMultiplier"] = 0.98, ["retractionLengthMm"] = 0.9, ["pressureAdvance"] = 0.05, ["maxVolumetricFlowMm3PerS"] = 9, ["fanPercent"] = 100, ["layerHeightMm"] = 0.2, ["lineWidthMm"] = 0.44, ["nozzleOffsetMm"] = -0.1 };
        var readings = 0;
        Run run = null!;
        for (var i = 0; i < years * 300; i++)
        {
            var p = pairings[i % pairings.Count];
            var at = now.AddDays(-years * 365.0 * (1 - i / (years * 300.0)));
            run = new Run { Kind = "temperature-tower", Number = i / pairings.Count + 1, PairingId = p.Id, CreatedAt = at, ChangedAt = at, PlanVersion = 1, PlanJson = planJson, Stage = i % 50 == 0 ? RunStages.Read : RunStages.Decided, PrintedAt = at, ReadAt = at, Outcome = "whole", Seed = i, PersonId = person.Id };
            db.Add(run);
            foreach (var s in plan.Sections)
            {
                foreach (var a in Aspects.All)
                {
                    var score = Math.Clamp(4 - (int)(Math.Abs((double)s.TemperatureC - 212) / 7) + random.Next(-1, 2), 0, 4);
                    db.Add(new Reading { RunId = run.Id, Key = Guid.CreateVersion7().ToString(), Section = s.Index, Aspect = a, Value = score, Entered = score.ToString(), At = at, PersonId = person.Id });
                    readings++;
                }
            }

            var revision = new ProfileRevision { PairingId = p.Id, Number = i / pairings.Count + 1, At = at, Why = "Kept from a tower", RunId = run.Id, PersonId = person.Id };
            revision.Settings.AddRange(kept.Select(k => new SettingRow { Key = k.Key, Value = k.Key == "nozzleTemperatureC" ? k.Value + random.Next(20) : k.Value, Uncertainty = 4, Origin = SettingOrigin.Run, OriginText = "temperature tower", State = (SettingState)random.Next(1, 4), StateWhy = "one run", RunId = run.Id }));
            db.Add(revision);
            db.Add(new LogEntry { At = at, Kind = "run", Text = $"Temperature tower {run.Number} read", Link = $"/runs/{run.Id}", PersonId = person.Id });
            if (i % 100 == 99)
            {
                await db.SaveChangesAsync();
                db.ChangeTracker.Clear();
            }
        }

        await db.SaveChangesAsync();
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        return new(pairings.Count, years * 300, readings, run.Id, pairings[0].Id, plan.Sections.Count * Aspects.All.Count, run.Stage);
    }
}
