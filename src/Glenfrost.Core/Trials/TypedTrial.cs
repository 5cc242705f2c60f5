using System.Linq.Expressions;
using System.Reflection;
using System.Text.Json;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.Trials;

/// <summary>A plan of a trial, or the fields at which it is refused.</summary>
/// <typeparam name="TPlan">Record of its plans.</typeparam>
/// <param name="Plan">The plan; null where it is refused.</param>
/// <param name="Errors">What is wrong, by field.</param>
public readonly record struct Planned<TPlan>(TPlan? Plan, IReadOnlyList<FieldError> Errors)
    where TPlan : class, ITrialPlan
{
    /// <summary>A plan that nothing is wrong with.</summary>
    public static implicit operator Planned<TPlan>(TPlan plan) => new(plan, []);

    /// <summary>A refusal.</summary>
    public static implicit operator Planned<TPlan>(List<FieldError> errors) => new(null, errors);
}

/// <summary>A plan as its file makes it.</summary>
/// <typeparam name="TPlan">Record of its plans.</typeparam>
/// <param name="Plan">With the file's own figures.</param>
/// <param name="Job">The piece ready to print; null where it can't be made.</param>
/// <param name="Errors">Why it can't.</param>
public readonly record struct Made<TPlan>(TPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors)
    where TPlan : class, ITrialPlan;

/// <summary>
/// A trial by the types of what it asks, plans and says. Its rules see those types only; everything that catalogue, API and shared pages ask of a trial is
/// sealed here and handed on. Each field is declared once, by the property of the request that holds it.
/// </summary>
/// <typeparam name="TRequest">What a tester asks: a record of decimals, words and ticks.</typeparam>
/// <typeparam name="TPlan">Record of its stored plans.</typeparam>
/// <typeparam name="TVerdict">Record of its verdicts: an outcome with its arguments, put into words elsewhere.</typeparam>
public abstract class Trial<TRequest, TPlan, TVerdict> : Trial
    where TRequest : class, new()
    where TPlan : class, ITrialPlan
    where TVerdict : TrialVerdict
{
    private readonly Lazy<IReadOnlyDictionary<string, PlanField>> fields;

    /// <summary>Declares nothing yet: fields are asked for once, when they are first needed.</summary>
    protected Trial() => fields = new(() => Declare().ToDictionary(f => f.Name));

    /// <summary>Its fields in the order in which they are asked, those of one group side by side.</summary>
    protected abstract IReadOnlyList<PlanField> Declare();

    /// <summary>What a tester most likely wants.</summary>
    protected abstract TRequest Proposal(PlanContext context);

    /// <summary>What a stored plan was made from.</summary>
    protected abstract TRequest RequestOf(TPlan plan);

    /// <summary>Plans, or says at which fields it can't be planned.</summary>
    public abstract Planned<TPlan> Plan(TRequest request, PlanContext context);

    /// <summary>The job of a plan, with the plan as the file makes it.</summary>
    protected virtual Made<TPlan> Make(TPlan plan, PlanContext context) => new(plan, null, []);

    /// <summary>The piece of a plan for a mesh; empty where there is none.</summary>
    protected virtual IReadOnlyList<Piece> Pieces(TPlan plan, PieceMemory memory) => [];

    /// <summary>What is read.</summary>
    public abstract ReadingGrid Grid(TPlan plan);

    /// <summary>The verdict on a run's readings.</summary>
    public abstract TVerdict Judge(TPlan plan, RunReadings readings, JudgeContext context);

    /// <summary>Reads readings that were sent over the API and judges them; null where the door refused some.</summary>
    protected abstract TVerdict? Answer(JsonFields json);

    /// <summary>Type of the body that <see cref="Answer"/> reads, for the description of the API.</summary>
    protected abstract Type EvaluateBody { get; }

    /// <summary>Type of the body of a plan, for the description of the API.</summary>
    protected virtual Type PlanBody => typeof(TRequest);

    /// <summary>Type of what the API answers to a plan.</summary>
    protected virtual Type PlanAnswerType => typeof(TPlan);

    /// <summary>Type of what the API answers to readings.</summary>
    protected virtual Type EvaluateAnswerType => typeof(TVerdict);

    /// <summary>Fields of a plan, or factors, whose values a run goes through on purpose, or that only say how it is read.</summary>
    protected virtual IEnumerable<string> SetAside(TPlan plan) => [];

    /// <summary>What else a value was found with, in words; null for nothing.</summary>
    protected virtual string? FoundWith(TPlan plan, string key) => null;

    /// <summary>How much it is, for the log.</summary>
    protected virtual string Extent(TPlan plan) => base.Extent(plan);

    /// <summary>What a value that is kept from one run rests on.</summary>
    protected virtual string Basis(TPlan plan) => base.Basis(plan);

    /// <summary>The layer that a preview begins with, from 1.</summary>
    protected virtual int FirstLook(TPlan plan) => base.FirstLook(plan);

    /// <summary>Words for the name of its file.</summary>
    protected virtual string FileWords(TPlan plan) => base.FileWords(plan);

    /// <summary>Numbers that stand apart from the others.</summary>
    protected virtual IReadOnlyCollection<(int Section, string Aspect)> Apart(TPlan plan, TVerdict verdict, RunReadings readings) => [];

    /// <summary>The curve of a verdict; null where there is none.</summary>
    protected virtual TrialChart? Chart(TPlan plan, TVerdict verdict) => null;

    /// <summary>What to say beside a row while it is read, by section.</summary>
    protected virtual IReadOnlyDictionary<int, string> RowNotes(TPlan plan, RunReadings readings) => new Dictionary<int, string>();

    /// <summary>A file without a piece: its lines of G-code, or why they can't be written for this machine; null where a piece is printed.</summary>
    protected virtual (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(TPlan plan, PlanContext context) => null;

    /// <summary>The machine's own value that a verdict lets stand; null where it is of a pairing, or where nothing may change yet.</summary>
    protected virtual SettingValue? MachineValue(TPlan plan, TVerdict verdict) => null;

    /// <summary>What a verdict says of an area that has no setting; null where it says nothing of one, or not yet.</summary>
    protected virtual AreaFinding? Finding(TVerdict verdict) => null;

    /// <inheritdoc/>
    public sealed override IReadOnlyDictionary<string, PlanField> Fields => fields.Value;

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext context) => PlanValues.Of(Proposal(context));

    /// <inheritdoc/>
    public sealed override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(RequestOf((TPlan)plan));

    /// <inheritdoc/>
    public sealed override PlanResult Plan(PlanValues values, PlanContext context)
    {
        var (plan, errors) = Plan(values.To<TRequest>(), context);
        return new(plan, [.. errors.Select(e => e with { Offers = [.. e.Offers.Where(o => Mends(o, e.Field, values, context))] })]);
    }

    /// <summary>True where an offer, applied, is taken by the fields that it changes and settles the one at which it stands: no other is made.</summary>
    private bool Mends(Offer offer, string field, PlanValues values, PlanContext context)
    {
        var changed = values.With(null);
        foreach (var (name, value) in offer.Changes)
        {
            if (Fields.TryGetValue(name, out var of) && of.Quantity?.Check(value).Error is not null)
                return false;
            changed[name] = of is { IsTick: true } ? value != 0 : value;
        }

        return Plan(changed.To<TRequest>(), context).Errors.All(e => e.Field != field);
    }

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<TPlan>(json);

    /// <inheritdoc/>
    public sealed override (ITrialPlan Plan, PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(ITrialPlan plan, PlanContext context) =>
        Make((TPlan)plan, context) is var made ? (made.Plan, made.Job, made.Errors) : (plan, null, []);

    /// <inheritdoc/>
    public sealed override IReadOnlyList<Piece> Pieces(ITrialPlan plan, PieceMemory memory) => Pieces((TPlan)plan, memory);

    /// <inheritdoc/>
    public sealed override ReadingGrid Grid(ITrialPlan plan) => Grid((TPlan)plan);

    /// <inheritdoc/>
    public sealed override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context) => Judge((TPlan)plan, readings, context);

    /// <inheritdoc/>
    public sealed override TrialVerdict? Evaluate(JsonFields json) => Answer(json);

    /// <inheritdoc/>
    public sealed override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (PlanBody, PlanAnswerType, EvaluateBody, EvaluateAnswerType);

    /// <inheritdoc/>
    public sealed override RunView View(RunData run) => new RunView<TPlan, TVerdict>(this, run);

    /// <inheritdoc/>
    public sealed override IEnumerable<string> SetAside(ITrialPlan plan) => SetAside((TPlan)plan);

    /// <inheritdoc/>
    public sealed override string? FoundWith(ITrialPlan plan, string key) => FoundWith((TPlan)plan, key);

    /// <inheritdoc/>
    public sealed override string Extent(ITrialPlan plan) => Extent((TPlan)plan);

    /// <inheritdoc/>
    public sealed override string Basis(ITrialPlan plan) => Basis((TPlan)plan);

    /// <inheritdoc/>
    public sealed override int FirstLook(ITrialPlan plan) => FirstLook((TPlan)plan);

    /// <inheritdoc/>
    public sealed override string FileWords(ITrialPlan plan) => FileWords((TPlan)plan);

    /// <inheritdoc/>
    public sealed override IReadOnlyCollection<(int Section, string Aspect)> Apart(ITrialPlan plan, TrialVerdict verdict, RunReadings readings) =>
        Apart((TPlan)plan, (TVerdict)verdict, readings);

    /// <inheritdoc/>
    public sealed override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict) => Chart((TPlan)plan, (TVerdict)verdict);

    /// <inheritdoc/>
    public sealed override IReadOnlyDictionary<int, string> RowNotes(ITrialPlan plan, RunReadings readings) => RowNotes((TPlan)plan, readings);

    /// <inheritdoc/>
    public sealed override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) =>
        Lines((TPlan)plan, context);

    /// <inheritdoc/>
    public sealed override SettingValue? MachineValue(ITrialPlan plan, TrialVerdict verdict) => MachineValue((TPlan)plan, (TVerdict)verdict);

    /// <inheritdoc/>
    public sealed override AreaFinding? Finding(TrialVerdict verdict) => Finding((TVerdict)verdict);

    /// <summary>Declares a number.</summary>
    /// <param name="of">The property of the request that holds it.</param>
    /// <param name="label">As people call it; messages begin with it.</param>
    /// <param name="unit">Its unit; empty for none.</param>
    /// <param name="min">Least value.</param>
    /// <param name="max">Greatest value.</param>
    /// <param name="why">Why nothing beyond is taken, as a sentence ends with it.</param>
    /// <param name="help">What helps beside it; empty for nothing.</param>
    /// <param name="group">Head of the fields that it stands with.</param>
    /// <param name="needed">True where it must be given.</param>
    /// <param name="whole">True where only whole numbers are taken.</param>
    /// <exception cref="ArgumentException"><paramref name="of"/> names no property of the request.</exception>
    protected static PlanField Number(
        Expression<Func<TRequest, decimal?>> of, string label, string unit, decimal min, decimal max, string why, string help, string group, bool needed = true,
        bool whole = false) => new(new(label, unit, min, max, why, whole), null, needed) { Name = NameOf(of), Label = label, Help = help, Group = group };

    /// <summary>Declares a number whose unit and range stand elsewhere too.</summary>
    /// <param name="of">The property of the request that holds it.</param>
    /// <param name="quantity">Name, unit, range and reason.</param>
    /// <param name="help">What helps beside it; empty for nothing.</param>
    /// <param name="group">Head of the fields that it stands with.</param>
    /// <param name="needed">True where it must be given.</param>
    protected static PlanField Number(
        Expression<Func<TRequest, decimal?>> of, Quantity quantity, string help, string group, bool needed = false) =>
        new(quantity, null, needed) { Name = NameOf(of), Label = quantity.Name, Help = help, Group = group };

    /// <summary>Declares a choice.</summary>
    /// <param name="of">The property of the request that holds it.</param>
    /// <param name="label">As people call it.</param>
    /// <param name="help">What helps beside it; empty for nothing.</param>
    /// <param name="group">Head of the fields that it stands with.</param>
    /// <param name="words">Words with their labels; the first one stands where nothing is said.</param>
    /// <exception cref="ArgumentException"><paramref name="of"/> names no property of the request.</exception>
    protected static PlanField OneOf(
        Expression<Func<TRequest, string?>> of, string label, string help, string group, params (string Word, string Label)[] words) =>
        new(null, [.. words.Select(w => w.Word)], false)
        {
            Name = NameOf(of), Label = label, Help = help, Group = group, WordLabels = [.. words.Select(w => w.Label)],
        };

    /// <summary>Declares words of the tester's own.</summary>
    /// <param name="of">The property of the request that holds them.</param>
    /// <param name="label">As people call it.</param>
    /// <param name="longest">Characters that it takes at most.</param>
    /// <param name="help">What helps beside it; empty for nothing.</param>
    /// <param name="group">Head of the fields that it stands with.</param>
    /// <exception cref="ArgumentException"><paramref name="of"/> names no property of the request.</exception>
    protected static PlanField Text(Expression<Func<TRequest, string?>> of, string label, int longest, string help, string group) =>
        new(null, null, false) { Name = NameOf(of), Label = label, Help = help, Group = group, Longest = longest };

    /// <summary>Declares a tick.</summary>
    /// <param name="of">The property of the request that holds it.</param>
    /// <param name="label">As people call it.</param>
    /// <param name="help">What helps beside it; empty for nothing.</param>
    /// <param name="group">Head of the fields that it stands with.</param>
    /// <exception cref="ArgumentException"><paramref name="of"/> names no property of the request.</exception>
    protected static PlanField Tick(Expression<Func<TRequest, bool>> of, string label, string help, string group) =>
        new(null, null, false) { Name = NameOf(of), Label = label, Help = help, Group = group };

    private static string NameOf(LambdaExpression of)
    {
        var body = of.Body is UnaryExpression { NodeType: ExpressionType.Convert } convert ? convert.Operand : of.Body;
        return body is MemberExpression { Member: PropertyInfo property }
            ? JsonNamingPolicy.CamelCase.ConvertName(property.Name)
            : throw new ArgumentException($"{of} names no property of {typeof(TRequest).Name}.", nameof(of));
    }
}
