using System.Diagnostics;
using System.Reflection;
using System.Text.Json;
using Ical.Net.CalendarComponents;
using Ical.Net.DataTypes;
using Ical.Net.Evaluation;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Formats;
using NodaTime;
using Xunit.Sdk;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// The engine beside two other readers of RFC 5545 over rules of every shape that comes up: Ical.Net 5.2.4 and rrule-temporal 2.2.8.
/// Where one of them differs, the sentence of the RFC that decides stands beside the shape of rule that is passed over.
/// </summary>
public abstract class RecurrenceReference
{
    protected const int Most = 20;

    protected static readonly LocalDateTime Until = new(2034, 1, 1, 0, 0);

    internal static bool IsOnDayOfGap(string found, RandomRules.Case one) => ChangeOn(found, one) > Offset.Zero;

    internal static bool IsOnDayOfOverlap(string found, RandomRules.Case one) => ChangeOn(found, one) < Offset.Zero;

    private static Offset ChangeOn(string found, RandomRules.Case one)
    {
        var zone = DateTimeZoneProviders.Tzdb[one.Zone];
        var day = NodaTime.Text.OffsetDateTimePattern.ExtendedIso.Parse(found).Value.Date;
        return zone.GetUtcOffset(zone.AtStartOfDay(day.PlusDays(1)).ToInstant())
            - zone.GetUtcOffset(zone.AtStartOfDay(day).ToInstant());
    }

    internal static void Compare(
        RandomRules.Case one,
        IEnumerable<string> found,
        List<string> theirs,
        bool gaveUp,
        List<string> differences
    )
    {
        var ours = found.ToList();
        var same = gaveUp ? ours.Take(theirs.Count).SequenceEqual(theirs) : ours.SequenceEqual(theirs);
        if (!same)
            differences.Add($"{one}\n  ours   {string.Join(' ', ours)}\n  theirs {string.Join(' ', theirs)}");
    }

    internal static IEnumerable<string> Ours(RandomRules.Case one)
    {
        var start = RecurrenceSetTests.StartOf(one.Start, one.Zone);
        return new RecurrenceSet(RecurrenceSetTests.Rule(one.Rule), start)
            .Between(null, Until)
            .Take(Most)
            .Select(found => RecurrenceText.Write(found, start));
    }
}

/// <summary>The engine beside rrule-temporal.</summary>
public sealed class RecurrenceBesideTemporalTests : RecurrenceReference
{
    [Fact]
    public async Task Agrees_with_rrule_temporal_on_random_rules()
    {
        List<RandomRules.Case> cases =
        [
            .. RandomRules
                .OfDays(1, 1000)
                .Concat(RandomRules.OfTimes(2, 40))
                .OfEachShape(1)
                .Where(one => Ours(one).Any()),
        ];
        var answers = await AskNode(cases);
        Assert.Equal(cases.Count, answers.Length);
        var (compared, differences) = (0, new List<string>());
        for (var at = 0; at < cases.Count; at++)
        {
            if (ErrsTemporal(cases[at]))
                continue;
            using var answer = JsonDocument.Parse(answers[at]);
            // It gives up after 10,000 periods without a match; what it had found until then is compared.
            var gaveUp = answer.RootElement.ValueKind == JsonValueKind.Object;
            var found = gaveUp ? answer.RootElement.GetProperty("found") : answer.RootElement;
            List<string> theirs = [.. found.EnumerateArray().Select(one => one.GetString()!)];
            compared += gaveUp ? 0 : 1;
            Compare(cases[at], Ours(cases[at]), theirs, gaveUp, differences);
        }

        Assert.True(differences.Count == 0, string.Join("\n", differences.Take(5)));
        Assert.InRange(compared, 300, int.MaxValue);
    }

    // Shapes of rule that rrule-temporal reads against the RFC.
    private static bool ErrsTemporal(RandomRules.Case one)
    {
        bool Has(string part) => one.Rule.Contains(part, StringComparison.Ordinal);
        if (one.Rule.StartsWith("FREQ=YEARLY", StringComparison.Ordinal))
        {
            // "BYDAY … limit if BYYEARDAY or BYMONTHDAY is present" (§3.3.10, note 2): it takes in both.
            if (Has("BYDAY") && (Has("BYYEARDAY") || Has("BYMONTHDAY")))
                return true;
            // "BYMONTH, BYWEEKNO, BYYEARDAY, BYMONTHDAY, BYDAY … are applied in turn" (§3.3.10): it leaves BYMONTHDAY unread, and takes in
            // the days of weeks beside those of the year.
            if (Has("BYMONTHDAY") && (Has("BYYEARDAY") || Has("BYWEEKNO")))
                return true;
            if (Has("BYWEEKNO") && Has("BYYEARDAY"))
                return true;
            // "Recurrence rules may generate recurrence instances with an invalid date … MUST be ignored": its 53rd weekday runs on into
            // the next year.
            if (Has("53"))
                return true;
        }

        // A skipped time is read with the offset from before the gap (§3.3.5): it leaves out some that fall on a Sunday in spring.
        return one.Zone != "UTC" && Ours(one).Any(found => IsOnDayOfGap(found, one));
    }

    private static async Task<string[]> AskNode(IEnumerable<RandomRules.Case> cases)
    {
        var folder = Assembly
            .GetExecutingAssembly()
            .GetCustomAttributes<AssemblyMetadataAttribute>()
            .Single(one => one.Key == "ReferenceFolder")
            .Value!;
        using var node = Process.Start(
            new ProcessStartInfo("node", "expand.mjs")
            {
                WorkingDirectory = folder,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
            }
        ) ?? throw new XunitException("node does not start.");
        var token = TestContext.Current.CancellationToken;
        var reading = node.StandardOutput.ReadToEndAsync(token);
        foreach (var one in cases)
            await node.StandardInput.WriteLineAsync(
                JsonSerializer.Serialize(
                    new
                    {
                        rrule = one.Rule,
                        dtstart = one.Start,
                        tzid = one.Zone,
                        most = Most,
                        until = "2034-01-01T00:00:00",
                    }
                )
            );
        node.StandardInput.Close();
        var answers = await reading;
        await node.WaitForExitAsync(token);
        return answers.Split('\n', StringSplitOptions.RemoveEmptyEntries);
    }
}

/// <summary>The engine beside Ical.Net.</summary>
public sealed class RecurrenceBesideIcalNetTests : RecurrenceReference
{
    [Fact]
    public void Agrees_with_Ical_Net_on_thousands_of_rules()
    {
        var (compared, differences) = (0, new List<string>());
        foreach (var one in RandomRules.OfDays(3, 3000).Concat(RandomRules.OfTimes(4, 100)).OfEachShape(1))
        {
            if (ErrsIcalNet(one))
                continue;
            var start = RecurrenceSetTests.StartOf(one.Start, one.Zone).Time;
            var reference = new CalendarEvent
            {
                Start = new CalDateTime(
                    start.Year,
                    start.Month,
                    start.Day,
                    start.Hour,
                    start.Minute,
                    start.Second,
                    one.Zone
                ),
                RecurrenceRule = new Ical.Net.DataTypes.RecurrenceRule(one.Rule),
            };
            var (theirs, gaveUp) = (new List<string>(), false);
            try
            {
                foreach (
                    var found in reference.GetOccurrences(
                        options: new EvaluationOptions { MaxUnmatchedIncrementsLimit = 1000 }
                    )
                )
                {
                    var at = LocalDateTime.FromDateTime(found.Period.StartTime.Value);
                    if (theirs.Count == Most || at >= Until)
                        break;
                    var instant = NodaTime.Instant.FromDateTimeUtc(
                        DateTime.SpecifyKind(found.Period.StartTime.AsUtc, DateTimeKind.Utc)
                    );
                    theirs.Add(
                        NodaTime
                            .Text.OffsetDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm:sso<m>")
                            .Format(instant.InZone(DateTimeZoneProviders.Tzdb[one.Zone]).ToOffsetDateTime())
                            .Replace("Z", "+00:00", StringComparison.Ordinal)
                    );
                }
            }
            catch (EvaluationException)
            {
                gaveUp = true;
            }

            compared += gaveUp ? 0 : 1;
            Compare(one, Ours(one), theirs, gaveUp, differences);
        }

        Assert.True(differences.Count == 0, string.Join("\n", differences.Take(5)));
        Assert.InRange(compared, 300, int.MaxValue);
    }

    // Shapes of rule that Ical.Net reads against the RFC.
    private static bool ErrsIcalNet(RandomRules.Case one)
    {
        bool Has(string part) => one.Rule.Contains(part, StringComparison.Ordinal);
        if (one.Rule.StartsWith("FREQ=YEARLY", StringComparison.Ordinal))
        {
            // "BYMONTHDAY … Expand" under YEARLY (§3.3.10, table): it stays in the month of the start.
            if (Has("BYMONTHDAY") && !Has("BYMONTH="))
                return true;
            // "BYDAY … limit if BYYEARDAY or BYMONTHDAY is present" (note 2).
            if (Has("BYDAY") && (Has("BYYEARDAY") || Has("BYMONTHDAY")))
                return true;
            // "BYMONTH, BYWEEKNO, BYYEARDAY … are applied in turn": it gives the days of other months, too, or the same ones once for each
            // month.
            if (Has("BYMONTH=") && (Has("BYYEARDAY") || Has("BYWEEKNO")))
                return true;
            // A recurrence set has each instance once (§3.8.5.3, "duplicate instances are ignored"): a week named from both ends comes
            // twice.
            if (Has("BYWEEKNO") && Has("-"))
                return true;
        }

        // It loses an instance of a day on which the clocks go forward where BYHOUR is there, and puts one an hour on where they go
        // back; no sentence of the RFC does either.
        return Has("BYHOUR")
            && one.Zone != "UTC"
            && Ours(one).Any(found => IsOnDayOfGap(found, one) || IsOnDayOfOverlap(found, one));
    }
}
