using System.Globalization;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// Random rules that RFC 5545 allows, with a start, the same on every run: of every frequency and BY part, dense and sparse.
/// </summary>
public static class RandomRules
{
    private static readonly string[] Weekdays = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"];

    private static readonly string[] Zones =
    [
        "America/Halifax",
        "America/St_Johns",
        "Europe/Dublin",
        "Australia/Lord_Howe",
        "UTC",
    ];

    /// <summary>One question to several readers of the RFC.</summary>
    /// <param name="Rule">The rule.</param>
    /// <param name="Start">"2026-09-14T08:00:00".</param>
    /// <param name="Zone">An IANA zone.</param>
    public sealed record Case(string Rule, string Start, string Zone);

    /// <summary>So many cases with FREQ from DAILY up.</summary>
    public static IEnumerable<Case> OfDays(int seed, int count)
    {
        var random = new Random(seed);
        for (var made = 0; made < count; made++)
        {
            var frequency = random.Next(4) switch
            {
                0 => "DAILY",
                1 => "WEEKLY",
                2 => "MONTHLY",
                _ => "YEARLY",
            };
            yield return new Case(RuleOf(random, frequency), StartOf(random), Zones[random.Next(Zones.Length)]);
        }
    }

    /// <summary>So many cases with FREQ below DAILY, in UTC: there no hour is skipped or comes twice.</summary>
    public static IEnumerable<Case> OfTimes(int seed, int count)
    {
        var random = new Random(seed);
        for (var made = 0; made < count; made++)
        {
            var frequency = random.Next(3) switch
            {
                0 => "HOURLY",
                1 => "MINUTELY",
                _ => "SECONDLY",
            };
            yield return new Case(RuleOf(random, frequency), StartOf(random), "UTC");
        }
    }

    /// <summary>Of each shape of rule a few: its parts by name, whether one counts from the end, and whether clocks change there.</summary>
    public static IEnumerable<Case> OfEachShape(this IEnumerable<Case> cases, int most) =>
        cases
            .GroupBy(one =>
                (
                    string.Join(
                        ';',
                        one.Rule.Split(';')
                            .Select(part =>
                                part.StartsWith("FREQ", StringComparison.Ordinal)
                                    ? part
                                    : part[..part.IndexOf('=', StringComparison.Ordinal)]
                            )
                    ),
                    one.Rule.Contains("=-", StringComparison.Ordinal),
                    one.Zone == "UTC"
                )
            )
            .SelectMany(shape => shape.Take(most));

    private static string StartOf(Random random) =>
        new DateTime(2024 + random.Next(4), 1, 1)
            .AddDays(random.Next(366))
            .AddHours(random.Next(24))
            .AddMinutes(random.Next(12) * 5)
            .ToString("yyyy-MM-dd'T'HH:mm:ss", CultureInfo.InvariantCulture);

    private static string RuleOf(Random random, string frequency)
    {
        var parts = new List<string> { "FREQ=" + frequency };
        var (isDaily, isWeekly, isMonthly, isYearly) = (
            frequency == "DAILY",
            frequency == "WEEKLY",
            frequency == "MONTHLY",
            frequency == "YEARLY"
        );
        var isBelow = !isDaily && !isWeekly && !isMonthly && !isYearly;
        var interval = random.Next(3) == 0 ? 1 + random.Next(isBelow ? 50 : 6) : 1;
        if (interval > 1)
            parts.Add($"INTERVAL={interval}");
        var hasBy = false;
        var hasWeekNumber = isYearly && Chance(6);
        if (Chance(4))
            By("BYMONTH", 1 + random.Next(3), () => 1 + random.Next(12));
        if (hasWeekNumber)
            By("BYWEEKNO", 1 + random.Next(3), () => Sign(1 + random.Next(53)));
        if (!isWeekly && !isMonthly && !isDaily && Chance(6))
            By("BYYEARDAY", 1 + random.Next(4), () => Sign(1 + random.Next(366)));
        if (!isWeekly && Chance(4))
            By("BYMONTHDAY", 1 + random.Next(4), () => Sign(1 + random.Next(31)));
        if (Chance(2))
        {
            var withPlace = (isMonthly || (isYearly && !hasWeekNumber)) && Chance(2);
            ByText("BYDAY", 1 + random.Next(3), () =>
                (withPlace ? Sign(1 + random.Next(isMonthly ? 5 : 53)).ToString(CultureInfo.InvariantCulture) : "")
                + Weekdays[random.Next(7)]
            );
        }

        if (Chance(isBelow ? 3 : 6))
            By("BYHOUR", 1 + random.Next(3), () => random.Next(24));
        if (Chance(6))
            By("BYMINUTE", 1 + random.Next(2), () => random.Next(60));
        if (Chance(10))
            By("BYSECOND", 1 + random.Next(2), () => random.Next(60));
        if (hasBy && Chance(5))
            By("BYSETPOS", 1 + random.Next(2), () => Sign(1 + random.Next(5)));
        if (Chance(3))
            parts.Add("WKST=" + Weekdays[random.Next(7)]);
        parts.Add(Chance(4) ? $"COUNT={1 + random.Next(30)}" : "UNTIL=20331231T230000Z");
        return string.Join(';', parts);

        bool Chance(int oneIn) => random.Next(oneIn) == 0;
        int Sign(int value) => Chance(3) ? -value : value;
        void By(string name, int count, Func<int> value) =>
            ByText(name, count, () => value().ToString(CultureInfo.InvariantCulture));
        void ByText(string name, int count, Func<string> value)
        {
            hasBy = true;
            parts.Add($"{name}={string.Join(',', Enumerable.Range(0, count).Select(_ => value()).Distinct())}");
        }
    }
}
