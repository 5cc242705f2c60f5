namespace Glenfrost.Core.Gcode.Inspection;

/// <content>The order in which lines of a layer are laid, island by island.</content>
public static partial class Oddities
{
    private const string OrderToDo = "Surfaces of such layers look different, which a trial may take for an effect. Slice with one order throughout.";

    private const string MissingToDo = "A wall is missing there: too thin for the line width, or a hole in the model. Look at the layer.";

    private static IEnumerable<Oddity> Order(FileFacts f, List<LayerFacts> model)
    {
        var layers = model.Skip(1).ToList();
        (string What, Func<LayerOrder, int> Yes, Func<LayerOrder, int> No)[] orders =
        [
            ("the outer wall before the inner one", o => o.OuterFirst, o => o.InnerFirst), ("all fill before any wall", o => o.FillFirst, o => o.WallsFirst),
        ];
        foreach (var (what, yes, no) in orders)
        {
            var (with, without) = (layers.Where(l => yes(l.Order) > 0).ToList(), layers.Where(l => no(l.Order) > 0).ToList());
            var (y, n) = (layers.Sum(l => yes(l.Order)), layers.Sum(l => no(l.Order)));
            if (y + n >= 5 && y > 0 && n > 0 && Math.Min(y, n) <= 0.3 * (y + n))
            {
                var fewer = y < n ? with : without;
                var both = with.Intersect(without).Any();
                var where = both ? $"{Math.Min(y, n)} of {y + n} islands, in {Count(fewer.Count)}" : $"{fewer.Count} of {with.Count + without.Count} layers";
                yield return At(
                    fewer[0], y < n ? $"{where} print {what}; the others don't." : $"All but {where} print {what}.", Weight.Odd, OrderToDo);
            }
            else if (n == 0 && y >= 5 && what.Contains("fill", StringComparison.Ordinal))
            {
                yield return At(
                    with[0], "Every layer lays all fill before any wall.", Weight.Note,
                    "Fill then pushes into nothing, and the wall closes over its ends: fill shows through more. Walls first is usual.");
            }
        }

        (string What, string ToDo, Func<LayerOrder, int> Count)[] never =
        [
            ("fill a gap before the walls around it", "The filling has nothing to lean on and is dragged along by the wall that follows.", o => o.GapFirst),
            ("lay fill with no wall around it", MissingToDo, o => o.NoWall),
        ];
        foreach (var (what, toDo, count) in never)
        {
            var with = layers.Where(l => count(l.Order) > 0).ToList();
            if (with.Count > 0)
                yield return At(with[0], $"{with.Count} of {layers.Count} layers {what}.", Weight.Odd, toDo);
        }

        var islands = layers.Sum(l => l.Order.OuterFirst + l.Order.InnerFirst + l.Order.NoOuter);
        var lacking = layers.Where(l => l.Order.NoOuter > 0).ToList();
        if (lacking.Count > 0 && lacking.Sum(l => l.Order.NoOuter) <= 0.3 * islands)
            yield return At(
                lacking[0], $"{lacking.Count} of {layers.Count} layers have inner walls and no outer one, which the others have.", Weight.Odd,
                MissingToDo);

        static string Count(int n) => n == 1 ? "one layer" : $"{n} layers";

        Oddity At(LayerFacts l, string text, Weight weight, string toDo) =>
            new("feature-order", weight, $"{text} First: {Layer(f, l.Index)}.", toDo, l.FirstLine, l.Index);
    }
}
