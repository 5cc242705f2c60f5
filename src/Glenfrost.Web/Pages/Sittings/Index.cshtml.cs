using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Sittings;

/// <summary>What is known of a person's score noise, and the start of a sitting.</summary>
internal sealed class IndexModel(Bench bench, ScoreNoises noises) : BenchPage(bench)
{
    /// <summary>Photos of one sitting over all runs.</summary>
    private const int Most = 12;

    public string Person { get; private set; } = "";

    public ScoreNoise Noise { get; private set; } = ScoreNoise.Unlearned;

    public int Ready { get; private set; }

    public List<Sitting> Sittings { get; private set; } = [];

    public static int PhotosOf(Sitting s) => Json.Read<List<Guid>>(s.OrderJson).Count;

    public async Task OnGetAsync()
    {
        var person = await Bench.PersonAsync();
        Person = person.Name;
        Noise = (await noises.AllAsync()).GetValueOrDefault(person.Id) ?? ScoreNoise.Unlearned;
        Ready = Math.Min(Most, (await ReadyAsync(null)).Count);
        Sittings = await Db.Sittings.AsNoTracking().Where(s => s.PersonId == person.Id && s.RemovedAt == null).OrderByDescending(s => s.At).Take(40)
            .ToListAsync();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var run = Sheet["run"].Length > 0 ? Sheet.Id("run", "a run") : null;
        var person = await Bench.PersonAsync();
        var ready = Sheet.IsGood ? await ReadyAsync(run) : [];
        if (ready.Count == 0)
        {
            await OnGetAsync();
            Sheet.Notice = "There is no photo to score again: a photo of a section that you have scored yourself would be right.";
            return Refused();
        }

        var sitting = new Sitting { RunId = run, PersonId = person.Id, At = Bench.Now, OrderJson = "[]" };
        sitting.Seed = Math.Abs(BitConverter.ToInt32(sitting.Id.ToByteArray(), 12));
        var order = BlindOrder.Of(ready.Order(), sitting.Seed);
        sitting.OrderJson = Json.Write(run is null ? order.Take(Most) : order);
        Db.Sittings.Add(sitting);
        await Bench.SaveAsync();
        return Redirect($"/sittings/{sitting.Id}");
    }

    /// <summary>The newest photo of each section that this person has scored.</summary>
    private async Task<List<Guid>> ReadyAsync(Guid? run)
    {
        var person = (await Bench.PersonAsync()).Id;
        var photos = await Db.Photos.AsNoTracking()
            .Where(p =>
                p.RemovedAt == null
                && p.Section != null
                && (run == null || p.RunId == run)
                && Db.Readings.Any(r =>
                    r.RunId == p.RunId && r.Section == p.Section && r.PersonId == person && r.Value != null && Aspects.All.Contains(r.Aspect))
                && Db.Runs.Any(r => r.Id == p.RunId && r.RemovedAt == null))
            .OrderByDescending(p => p.At).Select(p => new { p.Id, p.RunId, p.Section }).Take(2000).ToListAsync();
        return [.. photos.GroupBy(p => (p.RunId, p.Section)).Select(g => g.First().Id)];
    }
}
