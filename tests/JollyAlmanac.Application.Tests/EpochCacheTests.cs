using JollyAlmanac.Storage.Caching;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>What is kept until something is written: never older than the last write, whoever wrote; bounded; gone when it is over.</summary>
public sealed class EpochCacheTests : IDisposable
{
    private static readonly Instant Now = Instant.FromUtc(2026, 10, 14, 12, 41);

    private readonly TestSchool school = new();
    private readonly TestSchool beside;
    private readonly EpochCache<string, string> cache;
    private readonly List<string?> before = [];

    public EpochCacheTests()
    {
        beside = new TestSchool(school);
        cache = new EpochCache<string, string>(school.Database.Epoch, capacity: 10);
    }

    public void Dispose()
    {
        cache.Dispose();
        beside.Dispose();
        school.Dispose();
    }

    [Fact]
    public void While_nothing_is_written_it_is_read_once()
    {
        Assert.Equal("first", Get("a", "first"));
        Assert.Equal("first", Get("a", "second"));
        Assert.Equal("other", Get("b", "other"));
        Assert.Equal([null, null], before);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Whatever_is_written_by_whomever_has_it_read_again(bool elsewhere)
    {
        Assert.Equal("first", Get("a", "first"));
        (elsewhere ? beside : school).Execute("update school set name = 'Skerry'");
        Assert.Equal("second", Get("a", "second"));
        Assert.Equal("second", Get("a", "third"));
        // What was kept before is at hand for whoever reads.
        Assert.Equal([null, "first"], before);
    }

    // Written while it was being read: what was read may be older than that.
    [Fact]
    public void What_is_written_during_the_reading_voids_what_was_read()
    {
        Assert.Equal("first", cache.Get("a", Now, _ =>
            {
                beside.Execute("update school set name = 'Skerry'");
                return ("first", Instant.MaxValue, 1);
            }));
        Assert.Equal("second", Get("a", "second"));
    }

    [Theory]
    [InlineData(0, "first")]
    [InlineData(59, "first")]
    [InlineData(60, "second")] // until is exclusive
    [InlineData(-1, "second")] // the clock was set back
    public void It_holds_for_its_time_alone(int seconds, string holds)
    {
        Assert.Equal("first", Get("a", "first", Now + Duration.FromMinutes(1)));
        Assert.Equal(holds, Get("a", "second", now: Now + Duration.FromSeconds(seconds)));
    }

    [Fact]
    public void What_is_gone_is_not_kept()
    {
        Assert.Equal("first", Get("a", "first"));
        school.Execute("update school set name = 'Skerry'");
        Assert.Null(Get("a", null));
        Assert.Equal("third", Get("a", "third"));
        Assert.Equal([null, "first", null], before);
    }

    [Fact]
    public void It_keeps_no_more_than_it_may()
    {
        for (var number = 0; number < 100; number++)
            Get($"key {number}", "first");
        var kept = Enumerable.Range(0, 100).Count(number => Get($"key {number}", "second") == "first");
        Assert.InRange(kept, 0, 10);
    }

    private string? Get(string key, string? value, Instant? until = null, Instant? now = null) =>
        cache.Get(key, now ?? Now, kept =>
        {
            before.Add(kept);
            return value is null ? null : (value, until ?? Instant.MaxValue, 1);
        });
}
