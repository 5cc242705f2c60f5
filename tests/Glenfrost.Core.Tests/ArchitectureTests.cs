using System.Text.RegularExpressions;

namespace Glenfrost.Core.Tests;

/// <summary>The house keeps its order: read off the sources, so that a reference that nobody sees in a diff is seen here.</summary>
public partial class ArchitectureTests
{
    internal static readonly string Root = FindRoot();

    private static string FindRoot()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (folder is not null && !File.Exists(Path.Combine(folder.FullName, "Glenfrost.slnx")))
            folder = folder.Parent;
        return folder?.FullName ?? throw new InvalidOperationException("The solution is not above the tests.");
    }

    private static IEnumerable<string> Sources(string folder, string pattern = "*.cs") => Directory.EnumerateFiles(Path.Combine(Root, folder), pattern, SearchOption.AllDirectories)
        .Where(f => !f.Contains($"{Path.DirectorySeparatorChar}obj{Path.DirectorySeparatorChar}") && !f.Contains($"{Path.DirectorySeparatorChar}bin" +
            $"{Path.DirectorySeparatorChar}"));

    [Fact]
    public void Namespaces_of_the_core_form_no_circle()
    {
        var core = Path.Combine(Root, "src", "Glenfrost.Core");
        var names = Directory.EnumerateDirectories(core).Select(d => Path.GetFileName(d)!).Where(n => n is not ("bin" or "obj")).ToHashSet();
        var uses = names.ToDictionary(n => n, _ => new HashSet<string>());
        foreach (var name in names)
        {
            foreach (var file in Sources(Path.Combine("src", "Glenfrost.Core", name)))
                uses[name].UnionWith(Reference().Matches(Comment().Replace(File.ReadAllText(file), "")).Select(m => m.Groups[1].Success ? m.Groups[1].Value : m.Groups[2].Value).Where(n => n != name && names.Contains(n)));
        }

        // Depth first: a name that is met again while it is being looked at closes a circle.
        var circles = new List<string>();
        var done = new HashSet<string>();
        void Visit(string name, List<string> way)
        {
            if (way.IndexOf(name) is >= 0 and var at)
                circles.Add(string.Join(" → ", way.Skip(at).Append(name)));
            else if (done.Add(name))
                foreach (var next in uses[name].Order(StringComparer.Ordinal))
                    Visit(next, [.. way, name]);
        }

        foreach (var name in names.Order(StringComparer.Ordinal))
            Visit(name, []);
        Assert.Empty(circles);
    }

    [Fact]
    public void Nothing_that_a_runner_may_order_by_its_folder_is_left_to_it()
    {
        // A newer runner may order on a level that this one does not know: its attribute stands beside the others.
        var levels = typeof(TestMethodOrdererAttribute).Assembly.GetExportedTypes().Concat(typeof(Xunit.v3.ITestMethodOrdererAttribute).Assembly.GetExportedTypes())
            .Where(t => t.IsInterface && t.Namespace == "Xunit.v3" && t.Name.EndsWith("OrdererAttribute", StringComparison.Ordinal) && t.Name != "ITestOrdererAttribute")
            .Distinct().ToList();
        Assert.True(levels.Count >= 4, string.Join(", ", levels));
        var ours = typeof(ArchitectureTests).Assembly.GetCustomAttributes(false).Select(a => a.GetType()).ToList();
        Assert.All(levels, l => Assert.Contains(ours, l.IsAssignableFrom));
    }

    [Fact]
    public void The_core_knows_no_interface_and_no_storage_and_the_stand_ins_know_nothing()
    {
        foreach (var file in Sources(Path.Combine("src", "Glenfrost.Core")))
            Assert.DoesNotMatch(@"\b(EntityFrameworkCore|AspNetCore|Glenfrost\.(Storage|Application|Web|Simulation))\b", File.ReadAllText(file));
        foreach (var file in Sources(Path.Combine("src", "Glenfrost.Simulation")))
            Assert.DoesNotMatch(@"\bGlenfrost\.(Core|Storage|Application|Web)\b", File.ReadAllText(file));
        foreach (var file in Sources(Path.Combine("src", "Glenfrost.Storage")))
            Assert.DoesNotMatch(@"\bGlenfrost\.(Application|Web|Simulation)\b", File.ReadAllText(file));
        foreach (var file in Sources(Path.Combine("src", "Glenfrost.Application")))
            Assert.DoesNotMatch(@"\bGlenfrost\.Web\b|\bAspNetCore\b", File.ReadAllText(file));
    }

    [Fact]
    public void Pages_and_the_api_ask_the_application_and_never_the_database()
    {
        var web = Path.Combine("src", "Glenfrost.Web");
        foreach (var file in Sources(web).Concat(Sources(web, "*.cshtml")))
            Assert.DoesNotMatch(@"EntityFrameworkCore|\bGlenfrostDb\b|\.Db\b|\bDb\.", File.ReadAllText(file));
        var project = File.ReadAllText(Path.Combine(Root, web, "Glenfrost.Web.csproj"));
        Assert.DoesNotMatch(@"EntityFrameworkCore|Sqlite", project);
        // What the application answers with is made there: only it and the storage below know a query.
        Assert.Matches("EntityFrameworkCore", File.ReadAllText(Path.Combine(Root, "src", "Glenfrost.Application", "Glenfrost.Application.csproj")));
    }

    [Fact]
    public void Nothing_remembers_in_a_static_field()
    {
        // The one cache is injected; stand-ins keep what they measured of themselves, not answers.
        var projects = new[] { "Glenfrost.Core", "Glenfrost.Storage", "Glenfrost.Application", "Glenfrost.Web" };
        foreach (var file in projects.SelectMany(p => Sources(Path.Combine("src", p))))
            Assert.DoesNotMatch(@"static[^;=({]*\b(MemoryCache|ConcurrentDictionary|ConditionalWeakTable|Recent|LinkedList)\b", File.ReadAllText(file));
    }

    [Fact]
    public void Lines_stay_within_160_characters()
    {
        // What is left are single holes of sentences and worked examples in JSON: they go with the words of each trial. None comes to them.
        var longer = Sources("src").Where(f => !f.Contains("Migrations")).Concat(Sources("src", "*.cshtml")).SelectMany(f => File.ReadLines(f)).Count(l => l.Length > 160);
        Assert.True(longer <= 56, $"{longer} lines are longer than 160 characters");
    }

    [Fact]
    public void No_rule_searches_the_words_of_a_verdict_or_the_text_of_a_plan()
    {
        // Only the words of verdicts themselves may: they are what puts a sentence together.
        var found = Sources("src").Concat(Sources("src", "*.cshtml")).Where(f => !f.Contains("Migrations") && !f.EndsWith("Words.cs", StringComparison.Ordinal))
            .SelectMany(f => Searching().Matches(File.ReadAllText(f)).Select(m => $"{Path.GetFileName(f)}: {m.Value}"));
        Assert.Empty(found);
    }

    [Fact]
    public void A_type_is_named_for_what_it_does()
    {
        // Words of the screen (the bench that asks for a PIN, the simulated bench, the G-code room) stay; nothing else hides behind a part of a house.
        var lore = Sources("src").Concat(Sources("tests")).SelectMany(f => TypeName().Matches(File.ReadAllText(f)).Select(m => m.Groups[1].Value))
            .Where(n => n is "Bench" or "Sheet" or "Practice" or "Cairn" || Lore().IsMatch(n)).Where(n => n is not ("Bench" or "Practice") || !Screen(n));
        Assert.Empty(lore);

        // A migration of the practice world; the bench of a hidden truth.
        static bool Screen(string name) => Sources("src").Concat(Sources("tests")).Where(f => TypeName().Matches(File.ReadAllText(f)).Any(m => m.Groups[1].Value == name))
            .All(f => f.Contains("Migrations") || f.EndsWith("HiddenTruthTests.cs", StringComparison.Ordinal));
    }

    [GeneratedRegex(@"^\s*(?:public |internal |private |sealed |static |abstract |partial )*(?:class|record|struct|interface|enum) ([A-Z]\w+)", RegexOptions.Multiline)]
    private static partial Regex TypeName();

    [GeneratedRegex("(Door|Hall|Shelf|House)$")]
    private static partial Regex Lore();

    [GeneratedRegex(@"(?:Glenfrost\.)?Core\.([A-Z][A-Za-z]+)|(?<![\w.])(Equipment|Gcode|TestPieces|Trials|Evidence|Statistics|Factors|Profiles|Guides|Ageing)\.[A-Z]")]
    private static partial Regex Reference();

    [GeneratedRegex(@"//.*")]
    private static partial Regex Comment();

    [GeneratedRegex(
        @"(Sentence|Reasons\w*|Warnings\w*|PlanJson|Label|Summary)\)?!?\??\." +
        @"(Contains|StartsWith|EndsWith|Split|IndexOf|Replace|Substring|Trim\w*|ToLower\w*|ToUpper\w*)\(|(Sentence|Label)!?\[")]
    private static partial Regex Searching();
}
