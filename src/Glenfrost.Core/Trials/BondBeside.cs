namespace Glenfrost.Core.Trials;

/// <summary>The bond of a piece that was printed for its looks, beside them: by a rig where one pulled it, else as a hand broke it.</summary>
public static class BondBeside
{
    /// <summary>What is minded where somebody breaks a section, by hand or in a rig.</summary>
    public static IReadOnlyList<string> Cautions { get; } =
        ["A section that is broken or pulled apart throws fragments: glasses on, fingers out of clamps, nobody in the line of the pull."];

    /// <summary>What it is drawn as over the axis of the looks, and what that line is.</summary>
    /// <param name="at">Levels.</param>
    /// <param name="byHand">Mean scores, 0–4; null where nobody broke it.</param>
    /// <param name="forces">Forces, N; null where no rig pulled it.</param>
    /// <returns>Points in scores: of forces, the strongest is 4.</returns>
    public static (IReadOnlyList<(double At, double Score)> Line, string Said) Line(
        IReadOnlyList<double> at, IReadOnlyList<double?> byHand, IReadOnlyList<double?> forces)
    {
        var pulled = at.Zip(forces).Where(x => x.Second is not null).Select(x => (x.First, x.Second!.Value)).ToList();
        if (pulled.Count > 1)
        {
            var most = pulled.Max(p => p.Value);
            return ([.. pulled.Select(p => (p.First, 4 * p.Value / most))], "dashed: bond by the rig, the strongest at the top");
        }

        return ([.. at.Zip(byHand).Where(x => x.Second is not null).Select(x => (x.First, x.Second!.Value))], "dashed: bond, broken by hand");
    }
}
