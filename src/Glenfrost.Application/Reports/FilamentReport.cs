using Glenfrost.Core.Filaments;
using Glenfrost.Core.Routes;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Reports;

/// <summary>The tester's words beside the numbers of a report; each null where nobody wrote any.</summary>
/// <param name="Summary">In a sentence.</param>
/// <param name="Suits">Who it suits.</param>
/// <param name="Watch">What to watch for.</param>
/// <param name="Strength">How strong it seems, and whether it warps: nothing here measures it yet.</param>
public sealed record ReportNotes(string? Summary, string? Suits, string? Watch, string? Strength)
{
    /// <summary>Most characters of one of them: the report stays one page.</summary>
    public const int Longest = 400;

    /// <summary>None.</summary>
    public static ReportNotes None { get; } = new(null, null, null, null);

    /// <summary>What stands with a filament.</summary>
    public static ReportNotes Of(Filament f) => f.ReportJson is { } json ? Json.Read<ReportNotes>(json) : None;

    /// <summary>What is wrong with them; null where nothing is.</summary>
    public string? Fault() =>
        new[] { Summary, Suits, Watch, Strength }.Any(t => t?.Length > Longest) ? $"report holds more than {Longest} characters in one field" : null;
}

/// <summary>A value that was found on a machine.</summary>
/// <param name="Key">Key of the settings dictionary.</param>
/// <param name="Label">What it is called.</param>
/// <param name="Value">In the key's unit.</param>
/// <param name="Text">With its unit and what it was found at.</param>
/// <param name="Half">± half of its 95 % interval; empty where nobody knows it.</param>
/// <param name="State">confirmed, provisional or doubtful.</param>
/// <param name="From">The run that found it, as it is called, or how else it came.</param>
/// <param name="RunId">That run; null for none.</param>
public sealed record ReportValue(string Key, string Label, double Value, string Text, string Half, string State, string From, Guid? RunId);

/// <summary>A real part that was printed.</summary>
/// <param name="RunId">Its run.</param>
/// <param name="Name">As it is called.</param>
/// <param name="Outcome">passed, failed at a layer, or short of what was asked, in words.</param>
/// <param name="Passed">True where it passed.</param>
/// <param name="Cost">What a good part costs, in words; null where nobody knows.</param>
public sealed record ReportPart(Guid RunId, string Name, string Outcome, bool Passed, string? Cost)
{
    /// <summary>What the tester's verification pieces came to, in words; null for a part.</summary>
    public string? Shows { get; init; }
}

/// <summary>A photo of a report.</summary>
/// <param name="Id">Of the photo.</param>
/// <param name="Caption">What it shows.</param>
public sealed record ReportPhoto(Guid Id, string Caption);

/// <summary>A filament on one machine.</summary>
/// <param name="Letter">A, B …: what it is called in the report.</param>
/// <param name="Pairing">With toolhead and printer.</param>
/// <param name="Values">What was found.</param>
/// <param name="AgainstLabel">The temperature found against the label's range, in words; null where one of them is missing.</param>
/// <param name="Scores">Mean scores at the temperature in force, 0 to 4, by aspect.</param>
/// <param name="Pieces">How many pieces those are from.</param>
/// <param name="Suits">What it suits here, by what was measured.</param>
/// <param name="Drying">What a pair of prints before and after drying said; null where there is none.</param>
/// <param name="Parts">Real parts, the newest first.</param>
/// <param name="Photos">One of the tower, one of a part.</param>
public sealed record ReportMachine(
    string Letter, Pairing Pairing, IReadOnlyList<ReportValue> Values, string? AgainstLabel, IReadOnlyDictionary<string, double> Scores, int Pieces,
    IReadOnlyList<Suitability> Suits, string? Drying, IReadOnlyList<ReportPart> Parts, IReadOnlyList<ReportPhoto> Photos)
{
    /// <summary>Who found it, where it is of another tester's bench; null for this one's.</summary>
    public string? By { get; init; }

    /// <summary>What broken pegs said of its layers; null where none were broken.</summary>
    public string? Bond { get; init; }

    /// <summary>What plates in pairs said of its corners; null where none were printed.</summary>
    public string? Warp { get; init; }
}

/// <summary>One page about a filament over its machines.</summary>
/// <param name="Filament">With sources and colours.</param>
/// <param name="Notes">The tester's words.</param>
/// <param name="Label">Nozzle range of label, reel and page together, °C; null where they say nothing.</param>
/// <param name="Machines">On which it was tried, those with most that was found first.</param>
/// <param name="MoreMachines">Machines that no page of paper has room for.</param>
/// <param name="Towers">Curves of their towers over one axis; null where none was read.</param>
/// <param name="Watch">What to watch for, by what was measured and what is known of the family.</param>
/// <param name="NotTested">What was not tested.</param>
/// <param name="Prints">Prints that it rests on.</param>
/// <param name="From">Day of the first of them, UTC; null for none.</param>
/// <param name="To">Day of the last.</param>
/// <param name="Testers">Who printed and read.</param>
/// <param name="MinorPerKg">Price of a kilogram, minor units; null where it was never typed.</param>
/// <param name="MinorPerLitre">Price of a litre of solid plastic; null where price or density are not known.</param>
public sealed record FilamentReport(
    Filament Filament, ReportNotes Notes, Span? Label, IReadOnlyList<ReportMachine> Machines, int MoreMachines, ComparedCurves? Towers,
    IReadOnlyList<string> Watch, IReadOnlyList<string> NotTested, int Prints, DateTime? From, DateTime? To, IReadOnlyList<string> Testers, double? MinorPerKg,
    double? MinorPerLitre)
{
    /// <summary>What it suits, each with the machines where, in words; what nobody measured is not spoken of.</summary>
    public IReadOnlyList<string> Suits =>
    [
        .. Machines.SelectMany(m => m.Suits.Select(s => (m.Letter, Said: s))).GroupBy(x => x.Said.For).OrderBy(g => g.Key)
            .Select(g => ReportSentences.Suits(g.Key, [.. g.Select(x => (x.Letter, x.Said))])),
    ];
}
