using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Terms;
using NodaTime;

namespace JollyAlmanac.Application.Schools;

/// <summary>Reads a <see cref="SchoolTimeInput"/>.</summary>
internal static class SchoolTimeReader
{
    private const int MostRows = 400;

    /// <summary>
    /// The school's time, where the entry stays without problems; else null. Days without a year lie near its terms, or else today.
    /// </summary>
    public static SchoolTime? Read(
        FormReader entry,
        SchoolTimeInput input,
        SchoolTime stored,
        IReadOnlySet<TermId> inUse,
        LocalDate today
    )
    {
        var terms = ReadTerms(entry, input, stored, inUse);
        var noClass = ReadNoClass(entry, input, terms, today, stored);
        var bells = ReadBells(entry, "Bells", input.Bells ?? new BellsRow(), isRegular: true) ?? BellSchedule.None;
        var (others, shortened) = ReadOthers(entry, input, terms, today, stored);
        var cycle = ReadCycle(entry, input);
        return entry.IsGood
            ? new SchoolTime(stored.Zone, stored.FirstDayOfWeek, terms, noClass, bells, cycle, others, shortened)
            : null;
    }

    private static List<Term> ReadTerms(
        FormReader entry,
        SchoolTimeInput input,
        SchoolTime stored,
        IReadOnlySet<TermId> inUse
    )
    {
        var terms = new List<Term>();
        var rows = (input.Terms ?? []).Take(MostRows).ToList();
        for (var at = 0; at < rows.Count; at++)
        {
            var (row, field) = (rows[at], $"Terms[{at}]");
            if (
                row.Id == 0
                && string.IsNullOrWhiteSpace(row.Name)
                && string.IsNullOrWhiteSpace(row.First)
                && string.IsNullOrWhiteSpace(row.Last)
            )
                continue;
            var known = stored.Find(new TermId(row.Id));
            if (row.Remove)
            {
                if (known is not null && inUse.Contains(known.Id))
                    entry.Wrong(
                        field,
                        $"Series run with the {known.Name}, so it cannot go. Give these another end first."
                    );
                continue;
            }

            var name = entry.Line(field, row.Name, "The term's name", 60, needed: true);
            var (first, last) = (
                entry.Day(field, row.First, "The term's first day"),
                entry.Day(field, row.Last, "The term's last day")
            );
            if (first is null || last is null)
                continue;
            if (last < first)
                entry.Wrong(
                    field,
                    $"It ends on {Wording.WithYear(last.Value)}, before it starts on {Wording.WithYear(first.Value)}. Give a later last day."
                );
            else if (Period.DaysBetween(first.Value, last.Value) > 400)
                entry.Wrong(field, "A term has 400 days at most. Give an earlier last day.");
            else if (terms.Find(other => other.First <= last && first <= other.Last) is { } other)
                entry.Wrong(
                    field,
                    $"It overlaps the {other.Name}, {Wording.WithYear(other.First)} to {Wording.WithYear(other.Last)}. Terms may touch, but not overlap."
                );
            else
                terms.Add(
                    new Term(
                        known?.Id ?? default,
                        SchoolYear.Name(first.Value, last.Value),
                        name,
                        first.Value,
                        last.Value
                    )
                );
        }

        // A form that lost rows must not lose terms.
        foreach (var missing in stored.Terms.Where(term => rows.All(row => row.Id != term.Id.Value)))
            terms.Add(missing);
        return terms;
    }

    private static List<NoClassDay> ReadNoClass(
        FormReader entry,
        SchoolTimeInput input,
        List<Term> terms,
        LocalDate today,
        SchoolTime stored
    )
    {
        var days = new List<NoClassDay>();
        var rows = (input.NoClass ?? []).Take(MostRows).ToList();
        for (var at = 0; at < rows.Count; at++)
        {
            var (row, field) = (rows[at], $"NoClass[{at}]");
            if (row.Remove || (string.IsNullOrWhiteSpace(row.First) && string.IsNullOrWhiteSpace(row.Name)))
                continue;
            var name = entry.Line(field, row.Name, "The day's name", 80, needed: true);
            if (entry.Day(field, row.First, "The day") is not { } first)
                continue;
            var last = string.IsNullOrWhiteSpace(row.Last)
                ? first
                : entry.Day(field, row.Last, "The last day") ?? first;
            if (
                !Enum.TryParse<NoClassKind>(
                    string.IsNullOrEmpty(row.Kind) ? nameof(NoClassKind.Holiday) : row.Kind,
                    ignoreCase: true,
                    out var kind
                ) || !Enum.IsDefined(kind)
            )
                entry.Wrong(field, "Choose what kind of day it is.");
            Add(field, new NoClassDay(first, last, name, kind));
        }

        var pastedText = entry.Bounded("Pasted", input.Pasted, "The list", 40_000);
        var (pasted, problems) = NoClassList.Read(
            pastedText,
            terms.Count > 0 ? NearOf(terms, today) : today,
            stored.MonthFirst,
            terms.Count > 0 ? YearOf(terms, today) : null
        );
        foreach (var problem in problems)
            entry.Wrong("Pasted", problem);
        foreach (var day in pasted)
            Add("Pasted", day with { Name = entry.Line("Pasted", day.Name, "The day's name", 80, needed: true) });
        return days;

        void Add(string field, NoClassDay day)
        {
            if (Period.DaysBetween(day.First, day.Last) >= SchoolTime.LongestRange)
                entry.Wrong(
                    field,
                    $"{day.Name} has {Period.DaysBetween(day.First, day.Last) + 1} days; a range has {SchoolTime.LongestRange} at most. Check its years."
                );
            else if (day.Last < day.First)
                entry.Wrong(
                    field,
                    $"{day.Name} ends on {Wording.WithYear(day.Last)}, before it starts on {Wording.WithYear(day.First)}."
                );
            else if (
                !terms
                    .GroupBy(term => term.Year)
                    .Any(year =>
                        year.Min(term => term.First).PlusDays(-31) <= day.First
                        && day.Last <= year.Max(term => term.Last).PlusDays(31)
                    )
            )
                entry.Wrong(
                    field,
                    $"{day.Name}, {Wording.WithYear(day.First)}{(day.First == day.Last ? "" : $" to {Wording.WithYear(day.Last)}")}, lies outside every school year. Check its year, or add the term first."
                );
            else if (!days.Contains(day))
                days.Add(day);
        }
    }

    private static BellSchedule? ReadBells(FormReader entry, string field, BellsRow row, bool isRegular)
    {
        var lines = entry
            .Bounded(field, row.Periods, "The list of periods", 6_000)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (lines.Length == 0 && isRegular)
            return null;
        var name = entry.Line(
            field,
            string.IsNullOrWhiteSpace(row.Name) && isRegular ? "Regular bells" : row.Name,
            "The bells' name",
            60,
            needed: true
        );
        var periods = new List<BellPeriod>();
        foreach (var line in lines.Take(40))
        {
            var (period, problem) = BellText.Read(line);
            if (period is null)
                entry.Wrong(field, $"{Wording.Quote(line)} {problem}.");
            else if (periods.Exists(one => one.Name == period.Name))
                entry.Wrong(field, $"Period {period.Name} stands twice.");
            else if (periods.Find(one => one.Start < period.End && period.Start < one.End) is { } other)
                entry.Wrong(
                    field,
                    $"Period {period.Name} overlaps period {other.Name}, {Wording.Span(other.Start, other.End)}."
                );
            else
                periods.Add(period);
        }

        if (periods.Count == 0)
            entry.Wrong(field, $"{(name.Length > 0 ? name : "The bells")} have no period. Write one a line.");
        return new BellSchedule(name, [.. periods.OrderBy(period => period.Start)]);
    }

    private static (List<BellSchedule>, List<ShortenedDay>) ReadOthers(
        FormReader entry,
        SchoolTimeInput input,
        List<Term> terms,
        LocalDate today,
        SchoolTime stored
    )
    {
        var (others, days) = (new List<BellSchedule>(), new List<ShortenedDay>());
        var rows = (input.Others ?? []).Take(20).ToList();
        for (var at = 0; at < rows.Count; at++)
        {
            var (row, field) = (rows[at], $"Others[{at}]");
            if (
                row.Remove
                || (
                    string.IsNullOrWhiteSpace(row.Name)
                    && string.IsNullOrWhiteSpace(row.Periods)
                    && string.IsNullOrWhiteSpace(row.Days)
                )
            )
                continue;
            if (ReadBells(entry, field, row, isRegular: false) is not { } bells)
                continue;
            if (others.Exists(other => other.Name == bells.Name) || bells.Name == input.Bells?.Name)
                entry.Wrong(field, $"There are other bells called {bells.Name}. Give them another name.");
            others.Add(bells);
            foreach (
                var text in entry
                    .Bounded(field, row.Days, "The list of days", 20_000)
                    .Split(['\n', ';'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                    .Take(MostRows)
            )
            {
                var (spans, problem) = QuickEntry.Days(text, stored, terms.Count > 0 ? NearOf(terms, today) : today);
                if (problem is not null)
                    entry.Wrong(field, $"{Wording.Quote(text)}: {problem.TrimEnd('.')}. Write it like 25 Sep 2026.");
                foreach (var day in spans.SelectMany(span => span.Days.Take(MostRows)).Take(MostRows))
                {
                    if (days.Exists(one => one.Day == day))
                        entry.Wrong(field, $"{Wording.WithYear(day)} has other bells already.");
                    else
                        days.Add(new ShortenedDay(day, bells.Name));
                }
            }
        }

        return (others, days);
    }

    private static DayCycle? ReadCycle(FormReader entry, SchoolTimeInput input)
    {
        var names = entry
            .Bounded("CycleNames", input.CycleNames, "The list of cycle days", 2_000)
            .Split([',', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (names.Length == 0)
        {
            if (!string.IsNullOrWhiteSpace(input.CycleStart))
                entry.Wrong(
                    "CycleNames",
                    "A cycle needs a day at least. Name its days, or clear the date it starts on."
                );
            return null;
        }

        if (names.Length > 20)
            entry.Wrong("CycleNames", $"These are {names.Length} cycle days; there may be 20.");
        if (names.FirstOrDefault(name => name.Length > 12) is { } tooLong)
            entry.Wrong(
                "CycleNames",
                $"{Wording.Quote(tooLong)} is too long for the name of a cycle day; 12 characters fit."
            );
        if (names.Distinct(StringComparer.OrdinalIgnoreCase).Count() < names.Length)
            entry.Wrong("CycleNames", "Two cycle days have the same name.");
        return entry.Day("CycleStart", input.CycleStart, "The day the cycle starts on") is { } start
            ? new DayCycle([.. names], start)
            : null;
    }

    // Days without a year lie near the middle of the school year that is on, or comes.
    private static LocalDate NearOf(List<Term> terms, LocalDate today)
    {
        var year = YearOf(terms, today);
        return year.First.PlusDays(year.Length / 2);
    }

    private static DaySpan YearOf(List<Term> terms, LocalDate today)
    {
        var term = terms.OrderBy(term => term.First).FirstOrDefault(term => term.Last >= today)
            ?? terms.MaxBy(term => term.First)!;
        var year = terms.Where(one => one.Year == term.Year).ToList();
        return new DaySpan(year.Min(one => one.First), year.Max(one => one.Last));
    }
}
