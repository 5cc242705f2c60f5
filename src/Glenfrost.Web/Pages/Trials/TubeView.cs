namespace Glenfrost.Web.Pages.Trials;

/// <summary>A part of a tube's wall as it is drawn.</summary>
/// <param name="FromMm">Lower edge above the bed.</param>
/// <param name="ToMm">Upper edge.</param>
/// <param name="Share">0 for the slowest, 1 for the fastest.</param>
/// <param name="Words">Beside it; empty for none.</param>
public sealed record TubeBand(double FromMm, double ToMm, double Share, string Words);

/// <summary>A tube from the side, to scale.</summary>
/// <param name="DiameterMm">Across.</param>
/// <param name="HeightMm">Tall.</param>
/// <param name="Bands">Parts of its wall.</param>
/// <param name="Label">For who can't see it.</param>
/// <param name="Reached">What lets its fastest part be reached; empty where nothing is known.</param>
public sealed record TubeView(double DiameterMm, double HeightMm, IReadOnlyList<TubeBand> Bands, string Label, string Reached);
