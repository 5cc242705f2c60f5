using System.Text.Json;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials;

/// <summary>What a run is carried out on.</summary>
public enum TrialSubject
{
    /// <summary>A filament on a toolhead.</summary>
    Pairing,

    /// <summary>A toolhead, whatever filament is loaded.</summary>
    Toolhead,
}

/// <summary>
/// A kind of trial as the house sees it: what is asked, planned, printed, read and judged. All of a trial's own rules stand behind it, in the trial's
/// folder; pages, API, storage, export and the simulated bench know only this. A trial derives from <see cref="Trial{TRequest, TPlan, TVerdict}"/>, which
/// has its types.
/// </summary>
public abstract class Trial
{
    /// <summary>Fixed word: in addresses, files and the API.</summary>
    public abstract string Kind { get; }

    /// <summary>Its name, as a sentence begins with it.</summary>
    public abstract string Name { get; }

    /// <summary>What is printed, in a word: tower, piece, strip.</summary>
    public abstract string Noun { get; }

    /// <summary>The folder of its pages, in the folder that its core has too: FlowLimit/Steps.</summary>
    public abstract string PageFolder { get; }

    /// <summary>What it is carried out on.</summary>
    public virtual TrialSubject Subject => TrialSubject.Pairing;

    /// <summary>True where it is done with a family of filament.</summary>
    public virtual bool Suits(string family) => true;

    /// <summary>Settings that it may settle, the main one first.</summary>
    public abstract IReadOnlyList<string> Settles { get; }

    /// <summary>True where it asks how much is to be laid: what a spool wants otherwise is found by it, and not laid in it.</summary>
    public virtual bool AsksFlow => Settles.Contains("extrusionMultiplier");

    /// <summary>True where the pairing's cool-down stands behind its file; one's own file, free air and what asks when a part lets go have none.</summary>
    public virtual bool CoolsDown => Subject == TrialSubject.Pairing;

    /// <summary>True for a step in the order of work: it settles something, so that it is done once it has.</summary>
    public virtual bool IsOnRoute => Settles.Count > 0 || Subject == TrialSubject.Toolhead;

    /// <summary>Areas of evidence that it settles, as the ageing rules name them, the main one first.</summary>
    public abstract IReadOnlyList<string> Areas { get; }

    /// <summary>Areas besides, whose changes make two runs of it other pieces.</summary>
    public virtual IReadOnlyList<string> AlsoLeansOn => [];

    /// <summary>
    /// Fields of a plan, or factors, whose values a run goes through on purpose, or that only say how it is read: two runs that differ in them are repeats all
    /// the same.
    /// </summary>
    public virtual IEnumerable<string> SetAside(ITrialPlan plan) => [];

    /// <summary>Factors that its pieces do not have, though most prints do: layers above the first, for one.</summary>
    public virtual IReadOnlyList<string> NotPartOfIt => [];

    /// <summary>The factor that a field of a plan is; null where it is none.</summary>
    public virtual string? FactorOf(string field) =>
        HowItIsRead.Contains(field) ? null
        : Settings.SettingRegistry.Find(field) is not null ? field
        : FactorRegistry.PiecePrefix + field;

    private static readonly HashSet<string> HowItIsRead =
    [
        "repeats", "readBy", "margin", "marginPercent", "resolutionMm", "toleranceMm", "tolerancePercent", "spoolState", "check", "readingHeights",
        "scaleResolutionG", "recommendLossPercent", "limitLossPercent", "waitAtChanges", "override", "residualFlowPercent", "pauseS",
    ];

    /// <summary>Values that the run shows at another nozzle temperature than its own: each is kept by itself, for that temperature.</summary>
    public virtual IReadOnlyList<FoundElsewhere> Elsewhere(TrialVerdict verdict) => [];

    /// <summary>Nozzle temperature that a value of this plan was found at, °C; null where the plan has none of its own.</summary>
    public virtual double? FoundAtC(ITrialPlan plan, string key) =>
        FactorsOf(plan).GetValueOrDefault("nozzleTemperatureC")?.Number ?? (plan.HottestC > 0 && plan.HottestC == plan.CoolestC ? plan.HottestC : null);

    /// <summary>What else a value was found with, in words: width model, speeds; null for nothing.</summary>
    public virtual string? FoundWith(ITrialPlan plan, string key) => null;

    /// <summary>Keys of the factors that a run of this plan goes through, or that only say how it is read.</summary>
    public IReadOnlyList<string> Swept(ITrialPlan plan) =>
        [.. SetAside(plan).Select(f => Fields.ContainsKey(f) ? FactorOf(f) ?? f : f).Distinct().Order(StringComparer.Ordinal)];

    /// <summary>What matters to it: factors in which repeats must not differ.</summary>
    public PoolingRule Pools(ITrialPlan plan, FactorSituation situation) => new([.. Areas, .. AlsoLeansOn], [.. Swept(plan), .. NotPartOfIt], situation);

    /// <summary>How a piece of an older form is told from those of now; null where its form is that of now.</summary>
    protected virtual string? OlderFormOf(ITrialPlan plan) => null;

    /// <summary>What a plan says that its pieces are printed with: every field that describes the print. A field left to the trial says so in words.</summary>
    public IReadOnlyDictionary<string, FactorValue> FactorsOf(ITrialPlan plan)
    {
        var values = ValuesOf(plan);
        var mode = values.Word("mode");
        var factors = new Dictionary<string, FactorValue>
        {
            [FactorRegistry.PieceKind] = FactorValue.Of((Modes.Count > 1 && mode.Length > 0 ? $"{Noun}, {mode}" : Noun)
                + (OlderFormOf(plan) is { } form ? $", {form}" : ""), FactorSource.Plan),
        };
        foreach (var name in Asked(Modes.Contains(mode) ? mode : Modes[0]))
        {
            if (FactorOf(name) is not { } key)
                continue;
            var field = Fields[name];
            factors[key] =
                field.IsTick ? FactorValue.Of(values.Flag(name) ? "yes" : "no", FactorSource.Plan)
                : field.Words is { } words
                    ? FactorValue.Of(values.Word(name) is { Length: > 0 } word ? word : words[0].Length > 0 ? words[0] : "usual", FactorSource.Plan)
                : field.IsText && values.Word(name) is { Length: > 0 } text ? FactorValue.Of(text, FactorSource.Plan)
                : values.Number(name) is { } number ? FactorValue.Of((double)number, FactorSource.Plan)
                : FactorValue.Of("as usual", FactorSource.Plan);
        }

        return factors;
    }

    /// <summary>The definition of a measure of its piece; null for a key that is none of its own.</summary>
    public FactorDefinition? Define(string key)
    {
        if (!key.StartsWith(FactorRegistry.PiecePrefix, StringComparison.Ordinal)
            || !Fields.TryGetValue(key[FactorRegistry.PiecePrefix.Length..], out var field))
            return null;
        var label = field.Label.Length > 0
            ? field.Label.InSentence()
            : string.Concat(key[FactorRegistry.PiecePrefix.Length..].Select(c => char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : c.ToString()));
        return new(key, label, field.Quantity?.Unit ?? "", field.Quantity is null ? FactorKind.Word : FactorKind.Number, FactorGroup.Piece) { Digits = 3 };
    }

    /// <summary>One sentence: what it is good for.</summary>
    public abstract string Purpose { get; }

    /// <summary>
    /// What one piece alone says, as a number that pieces of this trial share: the value that it advises for the setting which the trial settles, in that
    /// setting's unit, with its 95 %
    /// half-width. Null where it advises none.
    /// </summary>
    public virtual SettingValue? PieceNumber(TrialVerdict verdict) => Settles is [var key, ..] ? verdict.Settings.FirstOrDefault(s => s.Key == key) : null;

    /// <summary>Version of the rules that a verdict was made by.</summary>
    public static string EngineVersion { get; } = typeof(Trial).Assembly.GetName().Version!.ToString(3);

    /// <summary>Fields of a plan.</summary>
    public abstract IReadOnlyDictionary<string, PlanField> Fields { get; }

    /// <summary>Ways to do it that ask different fields; the first one is usual.</summary>
    public virtual IReadOnlyList<string> Modes => [""];

    /// <summary>The fields that are asked in a mode.</summary>
    public virtual IEnumerable<string> Asked(string mode) => Fields.Keys;

    /// <summary>True for a field that must be given in a mode.</summary>
    public virtual bool IsNeeded(string field, string mode) => Fields[field].Needed;

    /// <summary>False for a field that is asked on occasion only, and carried along where it is not: an override that no start code leaves.</summary>
    public virtual bool IsShown(string field, PlanContext context) => true;

    /// <summary>What helps beside a field, for this machine and filament; empty for nothing.</summary>
    /// <param name="field">The field.</param>
    /// <param name="context">Machine and filament.</param>
    /// <param name="chosen">What a field of the form holds: a sweep's ends are of the factor that is swept.</param>
    public virtual string HelpOf(string field, PlanContext context, Func<string, string> chosen) => HelpOf(field, context);

    /// <summary>The same where nothing that is chosen in the form changes it.</summary>
    protected virtual string HelpOf(string field, PlanContext context) => Fields[field].Help;

    /// <summary>Unit of a number, empty for none; where another field's choice gives it one, that one's.</summary>
    /// <param name="field">The number.</param>
    /// <param name="chosen">What a field holds.</param>
    public virtual string UnitOf(string field, Func<string, string> chosen) => Fields[field].Quantity?.Unit ?? "";

    /// <summary>The values as another mode begins with them.</summary>
    public virtual PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = values.With(null);
        copy["mode"] = mode;
        return copy;
    }

    /// <summary>What a tester most likely wants.</summary>
    public abstract PlanValues Propose(PlanContext context);

    /// <summary>The values that a stored plan was made from.</summary>
    public abstract PlanValues ValuesOf(ITrialPlan plan);

    /// <summary>The values that a run begins with which follows one of that plan: the same, unless plates are printed in turn.</summary>
    public virtual PlanValues ValuesAfter(ITrialPlan plan) => ValuesOf(plan);

    /// <summary>Plans, or says at which fields it can't be planned.</summary>
    public abstract PlanResult Plan(PlanValues values, PlanContext context);

    /// <summary>Fields of words whose choice gives other fields usual values of its own: a sweep's factor its range.</summary>
    public virtual IReadOnlyList<string> Refits => [];

    /// <summary>The values with the usual ones of what <see cref="Refits"/> now says.</summary>
    public virtual PlanValues Refit(PlanValues values, PlanContext context) => values;

    /// <summary>Values that a pasted report of the printer says, with what was found; null where nothing was.</summary>
    public virtual (PlanValues? Values, string Said) ReadReport(string text, PlanContext context) => (null, "This trial reads no report.");

    /// <summary>Plans from JSON, as the API takes it; refusals of single fields stand at the door.</summary>
    public virtual PlanResult PlanFrom(JsonFields json, PlanContext context)
    {
        var mode = Modes.Count > 1 ? json.Word("mode", [.. Modes]) ?? Modes[0] : Modes[0];
        var usual = InMode(mode, Propose(context), context);
        var values = json.Fields(Fields, usual);
        if (json.Errors.Count > 0)
            return new(null, []);
        if (Refits.Where(f => values.Word(f) != usual.Word(f)).ToList() is { Count: > 0 } chosen)
        {
            foreach (var field in chosen)
                usual[field] = values.Word(field);
            values = json.Fields(Fields, Refit(usual, context));
        }

        // What the form would leave empty and ask for has no value here either: a plate's length is none of a part's.
        foreach (var field in Asked(mode).Where(f => Fields[f].Quantity is not null && IsNeeded(f, mode) && values.Number(f) is null))
            json.Number(field, true);
        return json.Errors.Count > 0 ? new(null, []) : Plan(values, context);
    }

    /// <summary>Where and why there is no file of a plan that Glenfrost doesn't write one for.</summary>
    public virtual FieldError NoFile => new("", "Nothing is printed in this trial.");

    /// <summary>Reads a stored plan of any version.</summary>
    /// <exception cref="JsonException">It is no plan of this trial.</exception>
    public abstract ITrialPlan ReadPlan(string json);

    /// <summary>What is wrong with a plan that came from elsewhere; null where nothing is.</summary>
    public virtual string? Faults(ITrialPlan plan) =>
        plan.Parts.Count is 0 or > 200 ? "plan has no parts, or more than 200"
        : plan.Parts.Where((p, i) => p.Index != i).Any() ? "plan has parts out of order; they count from 0"
        : null;

    /// <summary>What is read.</summary>
    public abstract ReadingGrid Grid(ITrialPlan plan);

    /// <summary>True for an aspect that a reading of this trial may have.</summary>
    public abstract bool IsAspect(string aspect);

    /// <summary>What became of each part: as it was said, else lost where the piece ended below its last layer, else judged.</summary>
    public virtual IReadOnlyList<SectionState> States(ITrialPlan plan, RunReadings readings) => [.. plan.Parts.Select(p =>
        Enum.TryParse<SectionState>(readings.Text(p.Index, CellAspects.State), true, out var said) ? said
        : p.LastLayer > 0 && readings.EndedAtLayer is { } layer && p.LastLayer > layer ? SectionState.Lost : SectionState.Judged)];

    /// <summary>Cells that still wait, in the order of reading: wanted, of a judged part, and neither read nor said to be missing.</summary>
    public virtual IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings)
    {
        var (states, grid) = (States(plan, readings), Grid(plan));
        return grid.Wanted.Where(c =>
            (grid.Column(CellAspects.State) is null || states[c.Section] == SectionState.Judged) && readings.Text(c.Section, c.Aspect).Length == 0);
    }

    /// <summary>How much it is, for the log.</summary>
    public virtual string Extent(ITrialPlan plan) => Say.Plural(plan.Parts.Count, "section");

    /// <summary>What is done at the printer where no piece is printed: before the file runs, and how it is read.</summary>
    public virtual (string Print, string Measure, string Done) BenchWords =>
        (
            "take the sheet to the printer and run the file once for each repeat",
            "Run the file, measure, type what is left; then the next repeat. You need not be through with all of them to begin.",
            "the file runs once for each repeat");

    /// <summary>True where its plan leans on earlier runs of it on the same subject, so that they are loaded for it.</summary>
    public virtual bool LooksBack => false;

    /// <summary>True where a file of somebody's own is printed in it.</summary>
    public virtual bool TakesOwnFile => false;

    /// <summary>True where a file of somebody's own is printed as it is in a mode of it: it is kept with the run.</summary>
    public virtual bool PrintsOwnFile(string mode) => TakesOwnFile;

    /// <summary>True where a damp spool spoils it, so that its plan asks for the spool's state.</summary>
    public virtual bool AsksDryness => false;

    /// <summary>What a value that is kept from one run rests on, for its state in the profile.</summary>
    public virtual string Basis(ITrialPlan plan) => "one run";

    /// <summary>What to ask about a number that was saved all the same; null where nothing is odd.</summary>
    public virtual string? Question(ITrialPlan plan, int section, string aspect, double value) =>
        Grid(plan).Column(aspect)?.Plausible is { } p && (value < p.From || value > p.To)
            ? $"{Say.N(value, 3)} is outside the usual {Say.N(p.From, 3)} to {Say.N(p.To, 3)}: is that so?"
            : null;

    /// <summary>True where a kept value that moves much may be the machine's doing, so that other filaments' values are doubtful too.</summary>
    public virtual bool TellsOfTheMachine => true;

    /// <summary>True where a run is judged together with those that it follows under equal conditions.</summary>
    public virtual bool JudgesTogether => false;

    /// <summary>True where its verdict looks at the air around the print.</summary>
    public virtual bool AsksAround => false;

    /// <summary>So many earlier runs are judged along at most.</summary>
    public virtual int MostTogether => 3;

    /// <summary>Longer ago than so many days nothing is judged along.</summary>
    public virtual int LongestApartDays => 14;

    /// <summary>False for a plan that asks a question and settles no value, such as on against off: once it is read, nobody has to leave it.</summary>
    public virtual bool Decides(ITrialPlan plan) => true;

    /// <summary>A run as the partials of the trial see it.</summary>
    public abstract RunView View(RunData run);

    /// <summary>What a verdict says of an area that has no setting; null where it says nothing of one, or not yet.</summary>
    public virtual AreaFinding? Finding(TrialVerdict verdict) => null;

    /// <summary>The verdict on a run's readings.</summary>
    public abstract TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context);

    /// <summary>The same with what is known good in practice beside it, for every setting that can be told so.</summary>
    /// <param name="plan">The plan of the run.</param>
    /// <param name="readings">Its readings.</param>
    /// <param name="context">What else it is judged by.</param>
    /// <param name="tell">Puts a verdict into words; null for one that nobody reads.</param>
    public TrialVerdict JudgeBesidePractice(
        ITrialPlan plan, RunReadings readings, JudgeContext context, Func<TrialVerdict, TrialVerdict>? tell = null)
    {
        var verdict = Judge(plan, readings, context);
        return Trials.KnownGoodValues.Beside(tell?.Invoke(verdict) ?? verdict, context.Practice, DecidingTrial, verdict.PracticeMarginPercent);
    }

    /// <summary>The kind of trial that decides where practice and this trial's value contradict each other; null where it is none of ours.</summary>
    public virtual string? DecidingTrial => null;

    /// <summary>Cautions of this trial besides those that every print has; shown on the sheet and where the work is.</summary>
    public virtual IReadOnlyList<string> Cautions => [];

    /// <summary>The machine's own value that a verdict lets stand; null where it is of a pairing, or where nothing may change yet.</summary>
    public virtual SettingValue? MachineValue(ITrialPlan plan, TrialVerdict verdict) => null;

    /// <summary>What to say beside a row while it is read, by section: a delivered length, a mark at an outlier.</summary>
    public virtual IReadOnlyDictionary<int, string> RowNotes(ITrialPlan plan, RunReadings readings) => new Dictionary<int, string>();

    /// <summary>True where rows say something beside their numbers, so that the column stands from the start.</summary>
    public virtual bool HasRowNotes => false;

    /// <summary>Numbers that stand apart from the others.</summary>
    public virtual IReadOnlyCollection<(int Section, string Aspect)> Apart(ITrialPlan plan, TrialVerdict verdict, RunReadings readings) => [];

    /// <summary>The curve of a verdict; null where there is none.</summary>
    public virtual TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict) => null;

    /// <summary>The job of a plan, with its plan as the file makes it.</summary>
    public virtual (ITrialPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(ITrialPlan plan, PlanContext context) => (plan, null, []);

    /// <summary>A file without a piece: its lines of G-code, or why they can't be written for this machine; null where a piece is printed.</summary>
    public virtual (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) => null;

    /// <summary>The piece of a plan for a mesh; empty where there is none.</summary>
    public virtual IReadOnlyList<Piece> Pieces(ITrialPlan plan, PieceMemory memory) => [];

    /// <summary>The layer that a preview begins with, from 1.</summary>
    public virtual int FirstLook(ITrialPlan plan) => Math.Min(3, Math.Max(1, plan.TotalLayers));

    /// <summary>Words for the name of its file.</summary>
    public virtual string FileWords(ITrialPlan plan) => $"{Say.N(plan.HottestC, 0)}";

    /// <summary>Why a file that was written earlier must not be printed with the parts of today; null where it may be.</summary>
    public virtual string? Refused(ITrialPlan plan, HotendLimits limits)
    {
        return plan.HottestC > limits.MaxC
                ? $"The file heats to {Say.N(plan.HottestC)} °C; with the parts fitted now the limit is {Say.N(limits.MaxC)} °C ({limits.MaxBecause}). " +
                    $"Change the plan, then a new file is written."
            : plan.CoolestC < limits.MinC
                ? $"The file cools to {Say.N(plan.CoolestC)} °C; the cold-extrusion limit is {Say.N(limits.MinC)} °C now. Change the plan, then a new file " +
                    $"is written."
            : null;
    }

    /// <summary>Parts as a device is told of them.</summary>
    public virtual IReadOnlyList<PlanPart> SheetParts(ITrialPlan plan) => plan.Parts;

    /// <summary>
    /// Labels for what is read by itself: its rows as the table of readings has them, so that nothing is told that whoever reads should not know.
    /// </summary>
    public virtual IReadOnlyList<PieceTag> Tags(ITrialPlan plan) =>
        [.. Grid(plan).Rows.OrderBy(r => r.Section).Select(r => new PieceTag(r.Label, r.Sub))];

    /// <summary>What one of its labels is for, in a word.</summary>
    public virtual string TagNoun => "piece";

    /// <summary>Figures of a verdict by part, for tables: name and a value for each part.</summary>
    public virtual IReadOnlyList<(string Name, IReadOnlyList<double?> Values)> Figures(ITrialPlan plan, TrialVerdict verdict) => [];

    /// <summary>Types for the description of the API: body and answer of plan and evaluate.</summary>
    public abstract (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes { get; }

    /// <summary>What the API answers to a plan.</summary>
    public virtual object PlanAnswer(ITrialPlan plan) => plan;

    /// <summary>Reads readings that were sent and judges them; null where the door refused some.</summary>
    public abstract TrialVerdict? Evaluate(JsonFields json);

    /// <summary>What the API answers to readings: the verdict in words, or what a trial makes of it.</summary>
    public virtual object EvaluateAnswer(TrialVerdict told) => told;

    /// <summary>A worked example of an evaluation, as JSON: what to send. Tests ask every trial for it.</summary>
    public abstract string Example { get; }

    /// <summary>A worked example of a plan, as JSON.</summary>
    public virtual string PlanExample => "{}";
}
