using System.Collections.Concurrent;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>A memory for tests, as the application brings one: it counts what it made.</summary>
public sealed class TestMemory : PieceMemory
{
    private const int Most = 3000;
    private readonly ConcurrentDictionary<object, object> known = new();
    private int made;

    /// <summary>One for all tests that only want to be quick.</summary>
    public static TestMemory Shared { get; } = new();

    /// <summary>How many answers were made.</summary>
    public int Made => made;

    public override T Once<T>(object key, int weight, Func<T> make)
    {
        if (known.TryGetValue((typeof(T), key), out var answer))
            return (T)answer;
        Interlocked.Increment(ref made);
        if (known.Count > Most)
            known.Clear();
        var fresh = make();
        known[(typeof(T), key)] = fresh!;
        return fresh;
    }
}

/// <summary>What a memory may and may not do: save time, change nothing.</summary>
public class PieceMemoryTests
{
    private static PlanContext Context(PieceMemory memory, Machine m, Trial trial)
    {
        var family = Family.Find(trial.Suits("PLA") ? "PLA" : "TPU")!;
        return new()
        {
            Memory = memory, Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, family), Family = family, AdvisedC = family.NozzleC,
            Subject = "any",
        };
    }

    [Theory]
    [MemberData(nameof(WrittenFileTests.WithPieces), MemberType = typeof(WrittenFileTests))]
    public void A_plan_that_is_made_from_memory_is_the_plan_that_is_made_anew(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var memory = new TestMemory();
        foreach (var m in new[] { Machines.Dunnock, Machines.Whimbrel })
        {
            var anew = Context(PieceMemory.None, m, trial);
            var remembering = Context(memory, m, trial);
            var plan = trial.Plan(trial.Propose(anew), anew).Plan!;
            var text = Machines.Text(trial.Make(plan, anew).Job!);
            Assert.Equal(text, Machines.Text(trial.Make(plan, remembering).Job!));
            var made = memory.Made;
            Assert.True(made > 0);
            // The second time nothing is made, and the file is the same; another machine's is another one.
            Assert.Equal(text, Machines.Text(trial.Make(plan, remembering).Job!));
            Assert.Equal(made, memory.Made);
        }
    }
}
