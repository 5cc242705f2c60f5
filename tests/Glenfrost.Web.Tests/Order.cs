using System.Security.Cryptography;
using System.Text;
using Glenfrost.Web.Tests;
using Xunit.Sdk;
using Xunit.v3;

[assembly: TestCaseOrderer(typeof(SameOrderEverywhere))]

namespace Glenfrost.Web.Tests;

/// <summary>
/// Orders the tests of a class by a hash of their names. The runner's own order depends on the folder of the build, and tests of a class share an application:
/// a test that leans on another one would fail in one folder only. GLENFROST_TEST_ORDER=anything shuffles, to find such tests.
/// </summary>
public sealed class SameOrderEverywhere : ITestCaseOrderer
{
    public IReadOnlyCollection<TTestCase> OrderTestCases<TTestCase>(IReadOnlyCollection<TTestCase> testCases) where TTestCase : notnull, ITestCase
    {
        var shuffle = Environment.GetEnvironmentVariable("GLENFROST_TEST_ORDER") ?? "";
        return
        [
            .. testCases.OrderBy(t => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(shuffle + t.TestCaseDisplayName))), StringComparer.Ordinal),
        ];
    }
}
