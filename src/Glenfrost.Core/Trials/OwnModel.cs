using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials;

/// <summary>
/// Equal sections of somebody's own model, counted in its layers: each boundary stands on the layer nearest to its height, so that nothing adds up. Lengths in
/// mm.
/// </summary>
/// <param name="TotalLayers">Of the model.</param>
/// <param name="BaseLayers">Below the first section.</param>
/// <param name="Sections">How many.</param>
/// <param name="LayerMm">Thickness of a layer.</param>
/// <param name="FirstMm">Thickness of the first one.</param>
public sealed record OwnModel(int TotalLayers, int BaseLayers, int Sections, double LayerMm, double FirstMm)
{
    /// <summary>Layers below section <paramref name="i"/>; of the number of sections, all of them.</summary>
    public int Below(int i) => BaseLayers + (int)Math.Round((decimal)i * (TotalLayers - BaseLayers) / Sections, MidpointRounding.AwayFromZero);

    /// <summary>Height of the top of so many layers, mm.</summary>
    public double Top(int layers) => layers <= 0 ? 0 : FirstMm + (layers - 1) * LayerMm;

    /// <summary>Its parts, the lowest first.</summary>
    /// <param name="label">Of a section.</param>
    /// <param name="nozzleC">Nozzle, °C.</param>
    public IReadOnlyList<PlanPart> Parts(Func<int, string> label, double nozzleC) =>
        [.. Enumerable.Range(0, Sections).Select(i => new PlanPart(i, label(i), Below(i) + 1, Below(i + 1), Top(Below(i)), Top(Below(i + 1)), nozzleC))];

    /// <summary>What is wrong with a model whose layers may not have been said yet, at their fields.</summary>
    public static IEnumerable<FieldError> Faults(OwnModel? model) =>
        model?.Faults() ?? [new("totalLayers", "Say how many layers your model has, and how many of them lie below the first section.")];

    /// <summary>What is wrong with its numbers, at their fields.</summary>
    public IEnumerable<FieldError> Faults()
    {
        if (BaseLayers >= TotalLayers)
            yield return new("baseLayers", $"{Say.Plural(BaseLayers, "layer")} of base leave none of {TotalLayers}: fewer would be right.");
        else if (TotalLayers - BaseLayers < Sections)
            yield return new(
                "totalLayers",
                $"{TotalLayers} layers less {BaseLayers} of base leave {TotalLayers - BaseLayers} for {Sections} sections: at least one layer each is needed.");
    }

    /// <summary>How its file is stepped: by height, the base as the first section.</summary>
    /// <param name="what">Key of what is stepped.</param>
    /// <param name="from">Value of the lowest section.</param>
    /// <param name="to">Value of the highest one.</param>
    /// <param name="by">Size of a step.</param>
    public StepRequest Steps(Steppable what, decimal from, decimal to, decimal by) => new()
    {
        What = what.Key, From = from, To = to, By = by, BaseToo = true, BaseMm = (decimal)Math.Round(Top(BaseLayers), 3),
        SectionMm = (decimal)Math.Round((Top(TotalLayers) - Top(BaseLayers)) / Sections, 3),
    };

    /// <summary>Layers and heights of a file put into the fields of a plan, and how many sections it shows; none where nothing repeats in it.</summary>
    public static (PlanValues Values, Repeats? Repeats) Read(PlanValues values, FileFacts facts)
    {
        var model = facts.Model.TakeWhile(l => l.Object == 0).ToList();
        if (model.Count == 0)
            return (values, null);
        static decimal Mm(double mm) => Math.Round((decimal)mm, 3);
        var v = values.With(null);
        v["totalLayers"] = (decimal)model.Count;
        v["layerHeightMm"] = Mm(StepPlanning.Usual(model));
        v["firstLayerHeightMm"] = Mm(model[0].Thickness);
        v.Remove("baseLayers");
        var repeats = Repeats.Of(facts);
        if (repeats is not null)
            v["baseLayers"] = (decimal)repeats.BaseLayers;
        return (v, repeats);
    }

    /// <summary>The same for a trial that is swept at one nozzle temperature: the file's own one, where it sets one.</summary>
    public static (PlanValues Values, Repeats? Repeats) ReadHeld(PlanValues values, FileFacts facts)
    {
        var (v, repeats) = Read(values, facts);
        if (OwnFile.Of(facts)?.NozzleC is { } nozzle)
            v["nozzleTemperatureC"] = (decimal)Math.Round(nozzle);
        return (v, repeats);
    }

    /// <summary>Refuses a value that stepping leaves as the file has it, where the plan says another one.</summary>
    /// <param name="field">Of the plan.</param>
    /// <param name="what">In words, at the head of a sentence.</param>
    /// <param name="typed">As the plan says it.</param>
    /// <param name="inFile">As the file has it; null where it says none.</param>
    /// <param name="unit">Of both.</param>
    /// <param name="within">Apart by no more, they are the same.</param>
    public static IEnumerable<FieldError> Held(string field, string what, decimal typed, double? inFile, string unit, decimal within)
    {
        if (inFile is not { } stands || Math.Abs(typed - (decimal)stands) <= within)
            yield break;
        var rounded = Math.Round((decimal)stands, 2);
        yield return new(
            field, $"{what} is {Say.N(rounded)} {unit} in the file, and stepping leaves it so: say that, or slice the file with {Say.N(typed)} {unit}.",
            [new($"{Say.N(rounded)} {unit}", new Dictionary<string, decimal> { [field] = rounded })]);
    }

    /// <summary>One of asked numbers; null while one of them is missing.</summary>
    public static OwnModel? Of(decimal? totalLayers, decimal? baseLayers, int sections, decimal layerMm, decimal? firstMm) =>
        totalLayers is { } total && baseLayers is { } foot && sections > 0
            ? new((int)total, (int)foot, sections, (double)layerMm, (double)(firstMm ?? layerMm)) : null;
}
