using System.Data.Common;
using System.Net;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.AspNetCore.Hosting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>Tests that listen to the whole console, which all share: alone, after the others.</summary>
[CollectionDefinition("console", DisableParallelization = true)]
public sealed class ConsoleTests;

/// <summary>What a disk that takes nothing more makes of pages, scripts, health and the console.</summary>
[Collection("console")]
public sealed class FullDiskTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>A database that takes nothing more, as on a full disk: its pages may not become more, and each write wants one.</summary>
    private sealed class Full : DbCommandInterceptor
    {
        public bool On { get; set; }

        private void Throw(DbCommand command)
        {
            if (On && command.CommandText is var sql && (sql.Contains("INSERT", StringComparison.Ordinal) || sql.Contains("UPDATE", StringComparison.Ordinal)
                || sql.Contains("user_version", StringComparison.Ordinal)))
                throw new SqliteException("database or disk is full", 13);
        }

        public override InterceptionResult<DbDataReader> ReaderExecuting(DbCommand command, CommandEventData data, InterceptionResult<DbDataReader> result)
        {
            Throw(command);
            return result;
        }

        public override ValueTask<InterceptionResult<DbDataReader>> ReaderExecutingAsync(
            DbCommand command, CommandEventData data, InterceptionResult<DbDataReader> result, CancellationToken stop = default)
        {
            Throw(command);
            return ValueTask.FromResult(result);
        }

        public override ValueTask<InterceptionResult<int>> NonQueryExecutingAsync(
            DbCommand command, CommandEventData data, InterceptionResult<int> result, CancellationToken stop = default)
        {
            Throw(command);
            return ValueTask.FromResult(result);
        }
    }

    private sealed class FullApp : TestApp
    {
        public Full Disk { get; } = new();

        protected override void ConfigureWebHost(IWebHostBuilder builder)
        {
            base.ConfigureWebHost(builder);
            builder.ConfigureServices(s => s.ConfigureDbContext<GlenfrostDb>(o => o.AddInterceptors(Disk)));
        }
    }

    [Fact]
    public async Task A_full_disk_is_said_on_pages_to_scripts_at_health_and_once_on_the_console()
    {
        using var site = new FullApp();
        var v = site.Visit();
        var run = await site.WithDb(db => db.Runs.Where(r => r.Stage == RunStages.Printed && r.Kind == "temperature-tower").OrderBy(r => r.Id).FirstAsync());
        Assert.Equal("Healthy", await v.Client.GetStringAsync("/health", Stop));
        await v.Go($"/runs/{run.Id}?open=read");
        var error = Console.Error;
        using var said = new StringWriter();
        Console.SetError(said);
        try
        {
            site.Disk.On = true;
            for (var i = 0; i < 3; i++)
            {
                await v.Press("form[method=post]", $"/runs/{run.Id}?handler=Reading", ("key", $"k{i}"), ("section", "0"), ("aspect", "bond"), ("text", "3"));
                Assert.Equal(507, (int)v.Last.StatusCode);
                Assert.Equal("the disk is full", v.Last.Headers.GetValues("X-Disk").Single());
            }

            await v.Go("/room");
            await v.Submit("main form.inrow", ("roomC", "21"));
            Assert.Equal(507, (int)v.Last.StatusCode);
            Assert.Contains("The disk is full", v.Text("h1"));
            Assert.Contains("21", v.Text("main"));
            using var health = await v.Client.GetAsync("/health", Stop);
            Assert.Equal(
                (HttpStatusCode.ServiceUnavailable, "Unhealthy: the disk is full"),
                (health.StatusCode, await health.Content.ReadAsStringAsync(Stop)));
        }
        finally
        {
            Console.SetError(error);
        }

        Assert.Single(said.ToString().Split("Glenfrost: The disk is full"), s => s.Length > 0);
        site.Disk.On = false;
        Assert.Equal("Healthy", await v.Client.GetStringAsync("/health", Stop));
        await v.Go($"/runs/{run.Id}?open=read");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
    }
}
