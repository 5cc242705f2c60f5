using System.Security.Cryptography;
using System.Text;
using Glenfrost.Tests;
using Xunit.Sdk;
using Xunit.v3;

[assembly: TestCollectionOrderer(typeof(SameOrderEverywhere))]
[assembly: TestClassOrderer(typeof(SameOrderEverywhere))]
[assembly: TestMethodOrderer(typeof(SameOrderEverywhere))]
[assembly: TestCaseOrderer(typeof(SameOrderEverywhere))]

namespace Glenfrost.Tests;

/// <summary>
/// Orders classes, their methods and the cases of each by a hash of their names. The runner's own order depends on the folder of the build, and tests of a
/// class share an application: a test that leans on another one would fail in one folder only. GLENFROST_TEST_ORDER=anything shuffles, to find such tests.
/// </summary>
public sealed class SameOrderEverywhere : ITestCollectionOrderer, ITestClassOrderer, ITestMethodOrderer, ITestCaseOrderer
{
    // Classes of a minute and more begin first: what is begun last would run by itself at the end.
    private static readonly string[] Long = [".TrialTests", ".SimulatedTests", ".ExchangeTests", ".RecordTests", ".TextsTests", ".HostileTests"];

    private readonly string shuffle = Environment.GetEnvironmentVariable("GLENFROST_TEST_ORDER") ?? "";

    public IReadOnlyCollection<TTestCollection> OrderTestCollections<TTestCollection>(IReadOnlyCollection<TTestCollection> testCollections)
        where TTestCollection : ITestCollection =>
        [.. Ordered(testCollections, c => c.TestCollectionDisplayName).OrderBy(c => !IsLong(c.TestCollectionDisplayName))];

    public IReadOnlyCollection<TTestClass?> OrderTestClasses<TTestClass>(IReadOnlyCollection<TTestClass?> testClasses)
        where TTestClass : notnull, ITestClass => Ordered(testClasses, c => c?.TestClassName ?? "");

    public IReadOnlyCollection<TTestMethod?> OrderTestMethods<TTestMethod>(IReadOnlyCollection<TTestMethod?> testMethods)
        where TTestMethod : notnull, ITestMethod => Ordered(testMethods, m => m?.MethodName ?? "");

    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases)
        where TTestCase : notnull, ITestCase => Ordered(testCases, c => c.TestCaseDisplayName);

    private static bool IsLong(string collection) => Long.Any(name => collection.Contains(name, StringComparison.Ordinal));

    private List<T> Ordered<T>(IReadOnlyCollection<T> all, Func<T, string> name) =>
        [.. all.OrderBy(t => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(shuffle + name(t)))), StringComparer.Ordinal)];
}
