using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FanSteps;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Core.Trials.FlexCompression;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Core.Trials.LayerTime;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Core.Trials.QuickCheck;
using Glenfrost.Core.Trials.Release;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Core.Trials.SettingSteps;
using Glenfrost.Core.Trials.SurfaceFlow;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Core.Trials.WallFlow;
using Glenfrost.Core.Trials.WarpPairs;

namespace Glenfrost.Core.Trials;

/// <summary>
/// Every trial that Glenfrost carries out, in the default order of work. A new trial is one line here, one folder in the core and one folder of pages.
/// </summary>
public static class TrialCatalogue
{
    /// <summary>The kind of a temperature tower.</summary>
    public const string TemperatureTower = TemperatureTowerTrial.Word;

    /// <summary>All kinds.</summary>
    public static IReadOnlyList<Trial> All { get; } =
    [
        new ExtruderFeedTrial(),
        new FirstLayerTrial(),
        new TemperatureTowerTrial(),
        new WallFlowTrial(),
        new SurfaceFlowTrial(),
        new FoamingFlowTrial(),
        new RetractionTrial(),
        new FlexTrial(),
        new PressureTrial(),
        new FlowWeighedTrial(),
        new FlowRisingTrial(),
        new FlowStepsTrial(),
        new FanTrial(),
        new LayerTimeTrial(),
        new SettingTrial(),
        new LayerBondTrial(),
        new WarpTrial(),
        new ReleaseTrial(),
        new VerificationTrial(),
        new QuickCheckTrial(),
        new PartTrial(),
    ];

    /// <summary>The trial of that word, or null.</summary>
    public static Trial? Find(string? kind) => All.FirstOrDefault(k => k.Kind == kind);

    /// <summary>The trial of that word.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public static Trial Get(string kind) => Find(kind) ?? throw new KeyNotFoundException($"there is no trial \"{kind}\"");

    /// <summary>The trial that settles a setting; null where none does yet.</summary>
    public static Trial? Settling(string key) => All.FirstOrDefault(k => k.Settles.Contains(key));
}
