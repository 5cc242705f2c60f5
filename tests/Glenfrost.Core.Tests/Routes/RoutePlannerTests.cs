using Glenfrost.Core.Routes;

namespace Glenfrost.Core.Tests.Routes;

/// <summary>What a pairing still needs: properties over every school and many states, and a few cases by hand.</summary>
public class RoutePlannerTests
{
    private static readonly RouteSchool[] Schools = Enum.GetValues<RouteSchool>();

    private static RouteInput Input(Random r, RouteSchool school)
    {
        var states = new[] { StepState.Open, StepState.Inherited, StepState.Doubtful, StepState.Provisional, StepState.Confirmed, StepState.Tried, StepState.Skipped };
        return new()
        {
            School = school,
            Order = [.. RouteMap.Stations.Select(s => s.Key).OrderBy(_ => r.Next()).Take(r.Next(8))],
            Stations = RouteMap.Of(r.Next(3) switch { 0 => "PLA", 1 => "TPU", _ => "foaming PLA" }, "strength"),
            Known = RouteMap.Stations.ToDictionary(
                s => s.Key, _ => new StationKnown(
                    states[r.Next(states.Length)], null, r.Next(5) == 0 ? null : new(r.Next(200), r.Next(60), r.Next(4) == 0 ? null : r.Next(300), 1))),
            Checks = r.Next(3) == 0 ? [new("clear", StepState.Doubtful, "nozzle changed")] : [],
            DryHours = r.Next(4) == 0 ? 6 : null,
        };
    }

    private static IEnumerable<RouteInput> Many()
    {
        var r = new Random(20261129);
        for (var i = 0; i < 4000; i++)
            yield return Input(r, Schools[i % Schools.Length]);
    }

    [Fact]
    public void What_leans_on_something_comes_after_it_in_every_order_and_is_not_next_before_it()
    {
        foreach (var input in Many())
        {
            var route = RoutePlanner.Plan(input);
            var keys = route.Steps.Where(s => s.Kind == StepKind.Station).Select(s => s.Key).ToList();
            Assert.Equal(RouteMap.Stations.Select(s => s.Key).Order(), keys.Order());
            foreach (var station in RouteMap.Stations)
                Assert.All(station.LeansOn, l => Assert.True(keys.IndexOf(l.On) < keys.IndexOf(station.Key)));
            if (route.Next is { Move: RouteMove.Plan or RouteMove.Again, Step: { } next })
                Assert.All(
                    RouteMap.Stations.First(s => s.Key == next.Key).LeansOn,
                    l => Assert.False(route.Steps.First(s => s.Key == l.On).Wanted, $"{next.Key} before {l.On}"));
        }
    }

    [Fact]
    public void Every_trial_that_settles_something_is_a_way_of_one_station()
    {
        var ways = RouteMap.Stations.SelectMany(s => s.Trials).ToList();
        Assert.Equal(Core.Trials.TrialCatalogue.All.Where(t => t.IsOnRoute).Select(t => t.Kind).Order(), ways.Order());
        Assert.All(RouteMap.Stations.Where(s => s.SettingKey is not null), s =>
            Assert.All(s.Trials, t => Assert.Contains(s.SettingKey, Core.Trials.TrialCatalogue.Get(t).Settles)));
    }

    [Fact]
    public void Bond_is_a_station_of_what_is_for_strength_and_of_nothing_else()
    {
        foreach (var use in new[] { null, "looks", "balanced", "fine detail", "speed", "low mass" })
            Assert.DoesNotContain(RouteMap.Of("PLA", use), s => s.Key == RouteMap.Bond);
        Assert.Equal([RouteMap.Bond, RouteMap.Verification], RouteMap.Of("PETG", "strength").Skip(7).Select(s => s.Key));
        Route Plan(StepState temperature, StepState bond) => RoutePlanner.Plan(new()
        {
            Stations = RouteMap.Of("PETG", "strength"),
            Known = RouteMap.Stations.ToDictionary(
                s => s.Key, s => new StationKnown(s.Key switch
                {
                    RouteMap.Bond => bond,
                    "temperature" => temperature,
                    RouteMap.Verification => StepState.Skipped,
                    _ => StepState.Confirmed,
                })),
        });
        // Not before a temperature, then next; settled, tried or left out it is not asked for again.
        Assert.Equal("temperature", Plan(StepState.Open, StepState.Open).Next.Step!.Key);
        Assert.Equal((RouteMove.Plan, RouteMap.Bond), (Plan(StepState.Provisional, StepState.Open).Next.Move, Plan(StepState.Provisional, StepState.Open).Next.Step!.Key));
        foreach (var done in new[] { StepState.Provisional, StepState.Confirmed, StepState.Tried, StepState.Skipped })
            Assert.False(Plan(StepState.Confirmed, done).Next is { Step.Key: RouteMap.Bond, Move: RouteMove.Plan or RouteMove.Again });
        // Doubtful, since a hotend was changed: once more.
        Assert.Equal((RouteMove.Again, RouteMap.Bond), (Plan(StepState.Confirmed, StepState.Doubtful).Next.Move, Plan(StepState.Confirmed, StepState.Doubtful).Next.Step!.Key));
    }

    [Fact]
    public void Costs_add_up_and_what_nobody_can_reckon_is_counted()
    {
        foreach (var input in Many())
        {
            var route = RoutePlanner.Plan(input);
            var wanted = route.Steps.Where(s => s.Wanted).ToList();
            Assert.Equal(wanted.Sum(s => s.Cost?.Minutes ?? 0), route.Rest.Minutes);
            Assert.Equal(wanted.Sum(s => s.Cost?.Grams ?? 0), route.Rest.Grams, 6);
            Assert.Equal(wanted.Sum(s => s.Cost?.Visits ?? 0), route.Rest.Visits);
            Assert.Equal(wanted.Count(s => s.Kind == StepKind.Station && s.Cost is null), route.CostsMissing);
            if (wanted.Any(s => s.Cost is { MoneyMinor: null }))
                Assert.Null(route.Rest.MoneyMinor);
            // The verification is no value of its own.
            Assert.Equal(RouteMap.Stations.Count - 1, route.ConfirmedAtEnd + route.ProvisionalAtEnd + route.LeftAtEnd);
        }
    }

    [Fact]
    public void Evidence_that_agrees_never_lengthens_a_route_and_a_skipped_step_never_comes_back()
    {
        foreach (var input in Many())
        {
            var before = RoutePlanner.Plan(input);
            // What was left out or tried in vain and has a value after all is no evidence that agrees: that value may be verified.
            foreach (var key in input.Known.Where(k => k.Value.State is not (StepState.Tried or StepState.Skipped)).Select(k => k.Key))
            {
                foreach (var better in new[] { StepState.Provisional, StepState.Confirmed })
                {
                    // Less sure than before is no evidence that agrees either.
                    if (input.Known[key].State == StepState.Confirmed)
                        continue;
                    var after = RoutePlanner.Plan(
                        input with { Known = input.Known.ToDictionary(k => k.Key, k => k.Key == key ? k.Value with { State = better } : k.Value) });
                    Assert.True(after.Rest.Minutes <= before.Rest.Minutes && after.Steps.Count(s => s.Wanted) <= before.Steps.Count(s => s.Wanted));
                }
            }

            foreach (var school in Schools)
            {
                var other = RoutePlanner.Plan(input with { School = school });
                // Another order keeps what is done, and what is left out.
                Assert.All(other.Steps, s => Assert.Equal(before.Steps.First(x => x.Key == s.Key).State, s.State));
                Assert.NotEqual(StepState.Skipped, other.Next.Step?.State);
            }
        }
    }

    [Fact]
    public void What_is_begun_comes_first_then_drying_then_the_machine_then_the_first_step_that_waits_for_nothing()
    {
        var input = new RouteInput
        {
            Stations = RouteMap.Of("PLA"), Known = new Dictionary<string, StationKnown>(), DryHours = 4.5, DryWhy = "damp",
            Checks = [new("grip", StepState.Optional, null), new("clear", StepState.Doubtful, "nozzle changed")],
            Waiting = [new(Guid.Empty, "wall-flow", 3, "printed")],
        };
        var next = RoutePlanner.Plan(input).Next;
        Assert.Equal((RouteMove.Read, "flow", 3), (next.Move, next.Step!.Key, next.Run!.Number));
        next = RoutePlanner.Plan(input = input with { Waiting = [] }).Next;
        Assert.Equal((RouteMove.Dry, 270), (next.Move, next.Step!.Cost!.Minutes));
        next = RoutePlanner.Plan(input = input with { DryHours = null }).Next;
        Assert.Equal((RouteMove.Check, "clear"), (next.Move, next.Step!.Key));
        // A check that nobody ever noted holds nothing up.
        input = input with { Checks = [new("grip", StepState.Optional, null)] };
        Assert.Equal("feed", RoutePlanner.Plan(input).Next.Step!.Key);
        Assert.Equal("temperature", RoutePlanner.Plan(input with { School = RouteSchool.TemperatureFirst }).Next.Step!.Key);
        // Strings wait for the temperature whatever the tester's own order says; pressure waits for nothing.
        Assert.Equal(["pressure", "temperature", "strings"], RouteMap.Whole(["strings", "pressure", "pressure", "moon"]).Where(k => k is "pressure" or "temperature" or "strings"));
        Assert.Equal("pressure", RoutePlanner.Plan(input with { School = RouteSchool.Own, Order = ["strings", "pressure"] }).Next.Step!.Key);
    }

    [Fact]
    public void At_the_end_it_says_stop_in_the_words_that_fit()
    {
        RouteNext Next(StationKnown temperature, StepState others) => RoutePlanner.Plan(new()
        {
            Stations = RouteMap.Of("PLA"),
            Known = RouteMap.Stations.ToDictionary(
                s => s.Key, s => s.Key == "temperature" ? temperature : new StationKnown(s.Key == RouteMap.Verification ? StepState.Skipped : others)),
        }).Next;
        Assert.Equal(RouteMove.Settled, Next(new(StepState.Confirmed), StepState.Confirmed).Move);
        Assert.Equal(RouteMove.Confirm, Next(new(StepState.Provisional), StepState.Confirmed).Move);
        Assert.Equal(RouteMove.Enough, Next(new(StepState.Provisional, Repeated: true), StepState.Confirmed).Move);
        // A gain that is known to be less than what looks scatter is no reason for another print.
        Assert.Equal(RouteMove.Enough, Next(new(StepState.Provisional, Gain: 0.05), StepState.Provisional).Move);
        Assert.Equal(RouteMove.Confirm, Next(new(StepState.Provisional, Gain: 0.4), StepState.Provisional).Move);
        Assert.Equal(RouteMove.TriedAll, Next(new(StepState.Confirmed), StepState.Tried).Move);
        Assert.Equal(RouteMove.Settled, Next(new(StepState.Confirmed), StepState.Skipped).Move);
    }

    [Fact]
    public void The_verification_comes_last_while_it_can_confirm_something_and_never_again_once_it_was_tried()
    {
        Route Of(StepState verification, params (string Key, StepState State)[] known) => RoutePlanner.Plan(new()
        {
            Stations = RouteMap.Of("PLA"),
            Known = RouteMap.Stations.ToDictionary(
                s => s.Key, s => new StationKnown(
                    s.Key == RouteMap.Verification ? verification : known.Where(k => k.Key == s.Key).Select(k => k.State).FirstOrDefault(StepState.Confirmed))),
        });
        RouteStep Step(Route route) => route.Steps.Single(s => s.Key == RouteMap.Verification);
        // It waits for what is still open, in every order.
        var open = Of(StepState.Open, ("strings", StepState.Open));
        Assert.Equal(("strings", RouteReason.ShowsThemTogether), (Step(open).WaitsFor!.On, Step(open).WaitsFor!.Reason));
        Assert.Equal("strings", open.Next.Step!.Key);
        // A temperature on one run: a piece that passes confirms it for less than another tower, and at the end it counts as confirmed.
        var last = Of(StepState.Open, ("temperature", StepState.Provisional));
        Assert.Equal((RouteMove.Plan, RouteMap.Verification), (last.Next.Move, last.Next.Step!.Key));
        Assert.Equal((RouteMap.Of("PLA").Count - 1, 0), (last.ConfirmedAtEnd, last.ProvisionalAtEnd));
        // Of flow limit and flow a vane says nothing.
        Assert.Equal(StepState.Optional, Step(Of(StepState.Open, ("flow-limit", StepState.Provisional), ("flow", StepState.Provisional))).State);
        Assert.Equal(RouteMove.Settled, Of(StepState.Open).Next.Move);
        Assert.Equal(RouteMove.TriedAll, Of(StepState.Tried, ("temperature", StepState.Confirmed)).Next.Move);
        // What did not pass has suspects; they come before another tower, and after what is still open.
        RouteMove Failed(StepState temperature) => RoutePlanner.Plan(new()
        {
            Stations = RouteMap.Of("PLA"),
            Known = new Dictionary<string, StationKnown>
            {
                ["verification"] = new(StepState.Tried, Failed: true), ["temperature"] = new(temperature), ["feed"] = new(StepState.Confirmed),
                ["first-layer"] = new(StepState.Confirmed), ["flow"] = new(StepState.Confirmed), ["strings"] = new(StepState.Confirmed),
                ["pressure"] = new(StepState.Confirmed), ["flow-limit"] = new(StepState.Confirmed),
            },
        }).Next.Move;
        Assert.Equal(RouteMove.Suspect, Failed(StepState.Provisional));
        Assert.Equal(RouteMove.Plan, Failed(StepState.Open));
        Assert.NotEqual(RouteMap.Verification, Of(StepState.Skipped, ("temperature", StepState.Provisional)).Next.Step?.Key);
        Assert.Equal((RouteMove.Again, RouteMap.Verification), (Of(StepState.Doubtful).Next.Move, Of(StepState.Doubtful).Next.Step!.Key));
        foreach (var input in Many())
        {
            var route = RoutePlanner.Plan(input);
            if (route.Next is { Move: RouteMove.Plan or RouteMove.Again, Step.Key: RouteMap.Verification })
                Assert.DoesNotContain(route.Steps, s => s is { Kind: StepKind.Station, Wanted: true } && s.Key != RouteMap.Verification);
        }
    }
}
