using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>A condition as its field shows it.</summary>
/// <param name="Factor">The factor.</param>
/// <param name="Kind">number, text or select.</param>
/// <param name="Help">What stands there and where it is known from, or what to type.</param>
/// <param name="Offer">What the run before had; null where it had nothing, or the field is not empty.</param>
public sealed record ConditionField(FactorDefinition Factor, string Kind, string? Help, ConditionOffer? Offer)
{
    /// <summary>Name of the field.</summary>
    public string Name => Factor.Key;

    /// <summary>Label with a capital.</summary>
    public string Label => Factor.Label.AtHead();
}

/// <summary>The conditions of a run as a form: what is known stands in it, what is unknown is empty, and beside it stands what the run before had.</summary>
/// <param name="Sheet">As typed.</param>
/// <param name="Fields">In order.</param>
/// <param name="Spools">Spools to choose from.</param>
/// <param name="Version">Version of the run that the form was made from.</param>
/// <param name="LastRun">The run before, in words; null where there is none.</param>
public sealed record ConditionsForm(
    FormState Form, IReadOnlyList<ConditionField> Fields, IReadOnlyList<KeyValuePair<string, string>> Spools, int Version, string? LastRun)
{
    private static readonly KeyValuePair<string, string>[] DrynessWords =
    [
        KeyValuePair.Create("", "as its log says"), KeyValuePair.Create("dry", "dry"), KeyValuePair.Create("damp", "damp"),
    ];

    private static readonly KeyValuePair<string, string>[] EnclosureWords =
    [
        KeyValuePair.Create("", "not noted"), .. new[] { "none", "draught shield", "improvised", "closed", "heated" }.Select(w => KeyValuePair.Create(w, w)),
    ];

    private static readonly KeyValuePair<string, string>[] YesNo =
    [
        KeyValuePair.Create("", "not noted"), KeyValuePair.Create("no", "no"), KeyValuePair.Create("yes", "yes"),
    ];

    /// <summary>Fields whose offers can be taken over.</summary>
    public IEnumerable<ConditionField> Offered => Fields.Where(f => f.Offer is not null);

    /// <summary>Choices of a field.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> OptionsOf(string key) => key == FactorRegistry.Spool ? Spools : WordsOf(key);

    /// <summary>The words that a condition is chosen from.</summary>
    public static IReadOnlyList<KeyValuePair<string, string>> WordsOf(string key) => key switch
    {
        FactorRegistry.Dryness => DrynessWords,
        FactorRegistry.Enclosure => EnclosureWords,
        _ => YesNo,
    };

    /// <summary>Puts the form together.</summary>
    public static ConditionsForm Of(
        FormState state, TrialRunView v, IReadOnlyList<string> asked, IReadOnlyList<ConditionOffer> offers, IReadOnlyList<Spool> spools) =>
        new(
            state,
            [
                .. asked.Select(k => FactorRegistry.Find(k)!)
                    .Select(d => new ConditionField(
                        d, d.Kind == FactorKind.Number ? "number"
                            : d.Key is FactorRegistry.Spool or FactorRegistry.Dryness or FactorRegistry.Enclosure or "draughtShield" ? "select"
                            : "text",
                        HelpOf(d, v.Factors[d.Key]), state[d.Key].Length == 0 ? offers.FirstOrDefault(o => o.Factor.Key == d.Key) : null)),
            ],
            [
                KeyValuePair.Create("", "not noted"),
                .. spools.Select(s => KeyValuePair.Create(s.Id.ToString(), v.Pairing is null ? $"{s.Name}, {s.Filament!.Name}" : s.Name)),
            ],
            v.Run.Version, offers.Select(o => o.From).FirstOrDefault());

    private static string? HelpOf(FactorDefinition d, FactorValue? value)
    {
        var said =
            value is null || value.Number is null && value.Text is not { Length: > 0 } ? null
            : value.Source == FactorSource.Typed ? null
            : $"{FactorWords.Value(d, value)}: {FactorWords.Source(value)}.";
        return d.Key switch
        {
            FactorRegistry.RoomC or FactorRegistry.ChamberC => said ?? "°F may be typed with its sign, also 80–85 °F.",
            FactorRegistry.Dryness => said ?? "Reckoned from the spool's log where nothing is chosen.",
            _ => said,
        };
    }

    /// <summary>Puts what is known of a run into the fields.</summary>
    public static void Fill(FormState state, TrialRunView v, IReadOnlyList<string> asked)
    {
        foreach (var key in asked)
        {
            var value = v.Factors[key];
            state[key] = value switch
            {
                null or { Applies: false } => "",
                _ when key == FactorRegistry.Dryness && value.Source == FactorSource.Record => "",
                { Thing: { } thing } when key == FactorRegistry.Spool => thing.ToString(),
                { Number: { } n } => Words.N(n, 2),
                _ => value.Text ?? "",
            };
        }
    }

    /// <summary>Reads the fields; messages stay with the form. What stands and was emptied is said to be unknown; what was empty stays out.</summary>
    public static Dictionary<string, FactorValue> Read(FormState state, TrialRunView v, IReadOnlyList<string> asked, IReadOnlyList<Spool> spools)
    {
        var read = new Dictionary<string, FactorValue>();
        foreach (var key in asked.Where(k => state.Values.ContainsKey(k)))
        {
            var (d, standing) = (FactorRegistry.Find(key)!, v.Factors[key]);
            FactorValue? value = null;
            if (key == FactorRegistry.Spool)
            {
                var id = state.Id(key, "a spool");
                var spool = spools.FirstOrDefault(s => s.Id == id);
                if (id is not null && spool is null)
                    state.Refuse(key, "Choose a spool of this filament.");
                value = spool is null ? null : FactorValue.Of(spool.Id, spool.Name, FactorSource.Typed);
            }
            else if (d.Kind == FactorKind.Number)
            {
                var quantity = key switch
                {
                    FactorRegistry.HumidityPercent => RecordFields.HumidityPercent,
                    FactorRegistry.ChamberC or FactorRegistry.ChamberEndC => RecordFields.ChamberAirC,
                    _ => RecordFields.RoomC,
                };
                value = state.Double(key, quantity) is { } n ? FactorValue.Of(n, FactorSource.Typed) : null;
            }
            else if (state.Text(key, d.Label, 120) is { } text)
            {
                value = FactorValue.Of(text, FactorSource.Typed);
            }

            if (value is not null)
                read[key] = value;
            else if (standing is { Applies: true }
                && state.IsGood
                && state[key].Trim().Length == 0
                && key != FactorRegistry.Dryness
                && (standing.Number is not null || standing.Text is { Length: > 0 }))
                read[key] = new FactorValue(null, null, FactorSource.Typed);
        }

        return read;
    }
}
