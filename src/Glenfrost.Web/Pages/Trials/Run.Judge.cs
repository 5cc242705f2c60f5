using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <content>What is decided.</content>
internal sealed partial class RunModel
{
    public Task<IActionResult> OnPostKeepAsync(Guid id) => KeepAsync(id, false);

    public Task<IActionResult> OnPostOwnAsync(Guid id) => KeepAsync(id, true);

    public async Task<IActionResult> OnPostLeaveAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage != RunStages.Read)
            return Redirect($"/runs/{id}#judge");
        await OrTellAsync("decided on", async () =>
        {
            var d = await decisions.LeaveAsync(V, null);
            Tell("The profile is left as it is.", "keep", d.Id);
        });

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Keeps a value for the other temperature at which the run shows it.</summary>
    public async Task<IActionResult> OnPostKeepElsewhereAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage is not (RunStages.Read or RunStages.Decided) || V.Pairing is null)
            return Redirect($"/runs/{id}#judge");
        if (Now.Elsewhere.FirstOrDefault(x => $"{Words.N(x.AtC)};{Words.N(x.Value.Value, 4)}" == Form["shown"]) is not { } found)
        {
            Form.Notice = "The readings changed, or it is kept already: look at the verdict again before you keep it.";
            return RefusedHere(409);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        await OrTellAsync("decided on", async () =>
        {
            var decision = await decisions.KeepElsewhereAsync(V, found);
            Tell($"{RunWords.Shown(found.Value)} at {Words.N(found.AtC)} °C is in the profile.", "keep", decision.Id);
        });

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Keeps what the run says of an area without a setting.</summary>
    public async Task<IActionResult> OnPostSayAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage != RunStages.Read)
        {
            Tell("This run is decided already; undo that first.");
            return Redirect($"/runs/{id}#judge");
        }

        if (Now.Finding is not { } finding || Form["shown"] != V.Verdict.Verdict)
        {
            Form.Notice = "The readings changed in another tab: look at the verdict again before you keep it.";
            return RefusedHere(409);
        }

        if (Decisions.MissingFor(V, finding) is { } missing)
        {
            Form.Refuse("spool", missing);
            Form.Notice = missing;
            return RefusedHere(openRead: true);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        await OrTellAsync("decided on", async () =>
        {
            var decision = await decisions.SayAsync(V, finding);
            Tell(finding.Passed ? "Kept: it passed." : Now.FindingWouldBe, "keep", decision.Id);
        });

        return Redirect($"/runs/{id}#judge");
    }

    private async Task<IActionResult> KeepAsync(Guid id, bool own)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage != RunStages.Read)
        {
            Tell("This run is decided already; undo that first.");
            return Redirect($"/runs/{id}#judge");
        }

        if (V.Pairing is null)
            return await KeepOnMachineAsync(id);
        if (V.Trial.Settles.Count == 0)
            return NotFound();
        IReadOnlyList<SettingValue> values;
        string? why = null;
        if (own)
        {
            var key = Now.OwnKey;
            var field = key == "nozzleTemperatureC" ? "ownC" : "ownValue";
            var definition = SettingRegistry.Get(key);
            var typed = Form.Double(field, key == "nozzleTemperatureC" ? RecordFields.NozzleC : definition.Quantity, true);
            why = Form.Text("ownWhy", "Why", 300, true);
            if (typed is { } chosen && ProfileLimits.Wrong(key, chosen, V.Pairing, null) is { } beyond)
                Form.Refuse(field, beyond);
            if (!Form.IsGood)
                return RefusedHere();
            values = [new(key, typed!.Value, 0)];
        }
        else
        {
            values = V.Verdict.Settings;
            if (values.Count == 0 || !V.Verdict.Advised)
            {
                Form.Notice = "The verdict proposes nothing to keep now. Choose a value with its reason, or print again.";
                return RefusedHere();
            }

            if (Form["shown"] != Now.Proposed)
            {
                Form.Notice =
                    $"The readings changed in another tab: the verdict says {RunWords.Shown(values[0])} now, not " +
                        $"{Form["shown"].Split(';')[0]}. Look at it again " +
                        $"before you keep it.";
                return RefusedHere(409);
            }
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        var profile = await profiles.LatestAsync(V.Pairing.Id);
        var beside = values[0].Key != BesideNozzle.Nozzle ? []
            : Decisions.BesideOf(V, profile, values[0].Value).Where(b => Form.Ticked($"beside.{b.Key}")).ToList();
        await OrTellAsync("decided on", async () =>
        {
            var decision = await decisions.KeepAsync(V, values, own, why, beside);
            var first = beside.FirstOrDefault(b => b.Key == BesideNozzle.FirstLayer)?.Value ?? profile?[BesideNozzle.FirstLayer]?.Value;
            var colder = values[0].Key == BesideNozzle.Nozzle ? Words.ColderFirstLayer(values[0].Value, first) : null;
            Tell($"{RunWords.Shown(values[0])} is in the profile.{(colder is null ? "" : $" {colder}")}", "keep", decision.Id);
        });

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>The printer's own value, where the verdict says that it holds.</summary>
    private async Task<IActionResult> KeepOnMachineAsync(Guid id)
    {
        if (V.Trial.MachineValue(V.Plan, V.Verdict) is not { } value)
        {
            Form.Notice = "The printer's value changes only when a run at it is within tolerance. Print the check run first.";
            return RefusedHere();
        }

        if (Form["shown"] != Now.Proposed)
        {
            Form.Notice = $"The readings changed in another tab: the verdict says {RunWords.Shown(value)} now. Look at it again before you keep it.";
            return RefusedHere(409);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        var (decision, doubtful) = await machines.KeepFeedAsync(V, value);
        Tell(
            $"{RunWords.Shown(value)} stands on {V.Toolhead.FullName} now." +
                (doubtful > 0 ? $" {Words.Plural(doubtful, "profile")} doubtful: carry their values over below." : ""),
            "keep", decision.Id);
        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Values found before a new feed, carried over as provisional ones.</summary>
    public async Task<IActionResult> OnPostCarryAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (Now.Decision is null || V.Pairing is not null)
            return Redirect($"/runs/{id}#judge");
        var chosen = Now.Carries.Where(c => Form.Ticked($"carry.{c.PairingId}")).ToList();
        if (chosen.Count == 0)
        {
            Form.Notice = "Tick the profiles whose values are carried over.";
            return RefusedHere();
        }

        var cause = await machines.CarryAsync(V, chosen);
        Tell($"{Words.Plural(chosen.Count, "profile")} carried over, as provisional: one check run each confirms it.", "carry", cause);
        return Redirect($"/runs/{id}#judge");
    }
}
