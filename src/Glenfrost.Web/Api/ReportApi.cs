using Glenfrost.Application.Reports;

namespace Glenfrost.Web.Api;

/// <summary>The report of a filament, for scripts.</summary>
public static class ReportApi
{
    /// <summary>A value that was found.</summary>
    /// <param name="Key">Key of the settings dictionary.</param>
    /// <param name="Value">In the key's unit.</param>
    /// <param name="Text">As the page shows it.</param>
    /// <param name="State">confirmed, provisional or doubtful.</param>
    /// <param name="From">The run that found it, or how else it came.</param>
    /// <param name="Run">Id of that run; null for none.</param>
    public sealed record Found(string Key, double Value, string Text, string State, string From, Guid? Run);

    /// <summary>What it suits on a machine, by what was measured.</summary>
    /// <param name="For">looks, unsupported, openShapes, largeAndFast or realParts.</param>
    /// <param name="How">well, somewhat or poorly.</param>
    /// <param name="Value">A mean score of 0 to 4, mm³/s, or a share of parts.</param>
    public sealed record Suited(string For, string How, double Value);

    /// <summary>A real part.</summary>
    public sealed record Part(Guid Run, string Name, bool Passed, string Outcome, string? Cost);

    /// <summary>The filament on one machine.</summary>
    /// <param name="Letter">What it is called in the report.</param>
    /// <param name="Pairing">Id of the pairing.</param>
    /// <param name="Name">Printer and toolhead.</param>
    /// <param name="Drive">direct or long-tube.</param>
    /// <param name="Nozzle">Diameter and kind.</param>
    /// <param name="Found">What was found.</param>
    /// <param name="AgainstLabel">The temperature against the label's range, in words.</param>
    /// <param name="Scores">Mean scores at the temperature in force, 0 to 4, by aspect.</param>
    /// <param name="Suits">What it suits here.</param>
    /// <param name="Drying">What a pair of prints before and after drying said.</param>
    /// <param name="Bond">What broken pegs said of its layers; null where none were broken.</param>
    /// <param name="Warp">What plates in pairs said of its corners; null where none were printed.</param>
    /// <param name="Parts">Real parts.</param>
    /// <param name="By">Who found it, where it is of another tester's bench; null for this one's.</param>
    public sealed record Machine(
        string Letter, Guid Pairing, string Name, string Drive, string Nozzle, IReadOnlyList<Found> Found, string? AgainstLabel,
        IReadOnlyDictionary<string, double> Scores, IReadOnlyList<Suited> Suits, string? Drying, string? Bond, string? Warp, IReadOnlyList<Part> Parts,
        string? By);

    /// <summary>One page about a filament over its machines.</summary>
    /// <param name="Filament">Its id.</param>
    /// <param name="Name">Maker and line.</param>
    /// <param name="Family">Polymer family.</param>
    /// <param name="LabelMinC">Least nozzle temperature of the label, °C; null where it says none.</param>
    /// <param name="LabelMaxC">Greatest.</param>
    /// <param name="Prints">Prints that it rests on.</param>
    /// <param name="Words">The tester's words.</param>
    /// <param name="Machines">On which it was tried.</param>
    /// <param name="Suits">What it suits, in words.</param>
    /// <param name="Watch">What to watch for.</param>
    /// <param name="NotTested">What was not tested.</param>
    /// <param name="MinorPerKg">Price of a kilogram, minor units.</param>
    /// <param name="Currency">Of the price.</param>
    public sealed record Answer(
        Guid Filament, string Name, string Family, double? LabelMinC, double? LabelMaxC, int Prints, ReportNotes Words, IReadOnlyList<Machine> Machines,
        IReadOnlyList<string> Suits, IReadOnlyList<string> Watch, IReadOnlyList<string> NotTested, double? MinorPerKg, string? Currency);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/api/v1/filaments/{id:guid}/report", (Delegate)ReportAsync).WithName("filamentReport").WithTags("filaments")
            .WithSummary("The report of a filament over its machines").Produces<Answer>().ProducesProblem(404);

    private static async Task<IResult> ReportAsync(Guid id, ReportBook reports)
    {
        if (await reports.OfAsync(id) is not { } r)
            return Results.Problem("There is no such filament, or it was removed.", statusCode: 404, title: "Not here");
        static string Word(Enum e) => char.ToLowerInvariant(e.ToString()[0]) + e.ToString()[1..];
        return Results.Json(
            new Answer(
                r.Filament.Id, r.Filament.Name, r.Filament.Family, r.Label?.Min, r.Label?.Max, r.Prints, r.Notes,
                [
                    .. r.Machines.Select(m => new Machine(
                        m.Letter, m.Pairing.Id, m.Pairing.Toolhead!.FullName, m.Pairing.Toolhead.Drive, m.Pairing.NozzleName,
                        [.. m.Values.Select(v => new Found(v.Key, v.Value, v.Text, v.State, v.From, v.RunId))], m.AgainstLabel, m.Scores,
                        [.. m.Suits.Select(s => new Suited(Word(s.For), Word(s.How), s.Value))], m.Drying, m.Bond, m.Warp,
                        [.. m.Parts.Select(p => new Part(p.RunId, p.Name, p.Passed, p.Outcome, p.Cost))], m.By)),
                ], r.Suits, r.Watch, r.NotTested, r.MinorPerKg is { } kg ? Math.Round(kg) : null, r.Filament.Currency), Json.Options);
    }
}
