using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;

namespace Glenfrost.Web.Tests;

/// <summary>All pages of the demo's year, read for what no careful writer would let stand.</summary>
public sealed partial class TextsTests(TestApp site) : IClassFixture<TestApp>
{
    private const int MostOfAKind = 6;

    private static readonly (string What, Regex Found)[] Faults =
    [
        ("a word twice", Twice()), ("one of many", OneOfMany()), ("no number", NoNumber()), ("a hole", Hole()), ("nothing in per cent", NothingPercent()),
        ("a zero below zero", BelowZero()),
    ];

    [Fact]
    public async Task No_page_of_the_year_says_one_of_many_a_word_twice_no_number_or_leaves_a_hole()
    {
        var v = site.Visit();
        var (open, seen, kinds, faults) = (new Queue<string>(["/", "/pairings", "/filaments", "/printers", "/log", "/guides", "/compare", "/gcode", "/blame",
            "/preferences"]), new HashSet<string>(), new Dictionary<string, int>(), new List<string>());
        while (open.TryDequeue(out var address))
        {
            var kind = AnId().Replace(address.Split('?')[0], "ID");
            if (!seen.Add(address) || kinds.GetValueOrDefault(kind) >= MostOfAKind)
                continue;
            kinds[kind] = kinds.GetValueOrDefault(kind) + 1;
            var page = await v.Go(address);
            if (v.Last.Content.Headers.ContentType?.MediaType != "text/html")
                continue;
            Assert.True(v.Last.IsSuccessStatusCode, address);
            foreach (var link in page.QuerySelectorAll<IHtmlAnchorElement>("a[href^='/']"))
            {
                var to = link.GetAttribute("href")!.Split('#')[0];
                if (!NotRead().IsMatch(to) && !seen.Contains(to))
                    open.Enqueue(to);
            }

            foreach (var text in Texts(page.QuerySelector("main")!))
            {
                faults.AddRange(
                    from f in Faults
                    from Match m in f.Found.Matches(text)
                    select $"{kind}: {f.What}: {text[Math.Max(0, m.Index - 60)..Math.Min(text.Length, m.Index + m.Length + 40)]}");
            }
        }

        Assert.True(seen.Count > 150 && kinds.Count > 40, $"{seen.Count} pages of {kinds.Count} kinds");
        Assert.Empty(faults.Distinct());
    }

    /// <summary>Texts as they are read: one for each paragraph, cell or label; code and drawings are none.</summary>
    private static IEnumerable<string> Texts(IElement main)
    {
        const string Blocks = "p, td, th, li, dt, dd, label, summary, h1, h2, h3, legend, figcaption, output";
        foreach (var dead in main.QuerySelectorAll("script, style, svg, pre, textarea, option, .code, dialog").ToList())
            dead.Remove();
        return main.QuerySelectorAll(Blocks).Where(b => b.QuerySelector(Blocks) is null).Select(b => Spaces().Replace(b.TextContent, " ").Trim());
    }

    [GeneratedRegex(@"\b([A-Za-z]{2,}) \1\b")]
    private static partial Regex Twice();

    [GeneratedRegex(@"(?<![\d.,:/°·−-])\b1 (layers|sections|runs|pieces|scores|readings|steps|samples|lines|photos|minutes|hours|days|grams|times|repeats|values|points|blocks|walls|entries|prints)\b")]
    private static partial Regex OneOfMany();

    [GeneratedRegex(@"NaN|Infinity|∞|\{\d\}|\bnull\b|System\.")]
    private static partial Regex NoNumber();

    [GeneratedRegex(@"(: |^), |\(\)|,,|: \.(?!/)|, \.(?!\d)| ,(?=\s)|\( ")]
    private static partial Regex Hole();

    [GeneratedRegex(@"\b0(\.0+)? %\s*(above|below|more|less|under|over|off)\b")]
    private static partial Regex NothingPercent();

    [GeneratedRegex(@"(?<![\w.])[−-]0(\.0+)?(?![\d.:-])")]
    private static partial Regex BelowZero();

    [GeneratedRegex("[0-9a-f]{8}-[0-9a-f-]{27}")]
    private static partial Regex AnId();

    [GeneratedRegex(@"handler=|/export|/photos/|/lib/|/docs/|/file|/code\b|\.(css|js|png|svg|csv|json|gcode|zip|stl|3mf)")]
    private static partial Regex NotRead();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();
}
