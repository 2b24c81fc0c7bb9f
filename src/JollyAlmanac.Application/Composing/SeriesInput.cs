using System.Globalization;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using NodaTime;
using NodaTime.Text;
using Series = JollyAlmanac.Core.Series.Series;

namespace JollyAlmanac.Application.Composing;

/// <summary>What the composer's form says of a series, as typed.</summary>
public sealed record SeriesInput
{
    /// <summary>What people read everywhere.</summary>
    public string? Title { get; init; } = "";

    /// <summary>Plain text.</summary>
    public string? Description { get; init; } = "";

    /// <summary>A room or place.</summary>
    public string? Place { get; init; } = "";

    /// <summary>Weekdays by their ISO number: "1" is Monday.</summary>
    public IReadOnlyList<string>? Days { get; init; }

    /// <summary>"1" is every week.</summary>
    public string? EveryWeeks { get; init; } = "1";

    /// <summary>A period's name, "all day", or empty for clock times.</summary>
    public string? Period { get; init; } = "";

    /// <summary>The start, "9:50"; read only without a period.</summary>
    public string? Start { get; init; } = "";

    /// <summary>The end.</summary>
    public string? End { get; init; } = "";

    /// <summary>The first day, ISO.</summary>
    public string? From { get; init; } = "";

    /// <summary>How many days after its start a session ends, where it is not the same; null where the form has no field for it: then
    /// what is stored stays.</summary>
    public string? Later { get; init; }

    /// <summary>"term", "until", "held" or "open".</summary>
    public string? Extent { get; init; } = "term";

    /// <summary>The id of the term.</summary>
    public string? Term { get; init; } = "";

    /// <summary>The last day, ISO.</summary>
    public string? Until { get; init; } = "";

    /// <summary>How many sessions are held.</summary>
    public string? Held { get; init; } = "";

    /// <summary>The id of a join link, "new" (to be pasted), "room" (the provider makes one), or empty for none.</summary>
    public string? Link { get; init; } = "";

    /// <summary>For a new link: its name.</summary>
    public string? LinkName { get; init; } = "";

    /// <summary>For a new link: the address behind it.</summary>
    public string? LinkTarget { get; init; } = "";

    /// <summary>"weekly", "monthly", "cycle", "dates" or "rule".</summary>
    public string? Meets { get; init; } = "weekly";

    /// <summary>A monthly pattern.</summary>
    public MonthlyInput Monthly { get; init; } = new();

    /// <summary>Names of cycle days.</summary>
    public IReadOnlyList<string>? CycleDays { get; init; }

    /// <summary>Listed dates, a line or a comma apart.</summary>
    public string? Dates { get; init; } = "";

    /// <summary>A recurrence rule of RFC 5545, without COUNT and UNTIL.</summary>
    public string? Rule { get; init; } = "";

    /// <summary>A <see cref="NoClassPolicy"/> by its name.</summary>
    public string? NoClass { get; init; } = "";

    /// <summary>An IANA zone; empty for the calendar's.</summary>
    public string? Zone { get; init; } = "";

    /// <summary>Extra sessions, one a line: "Sat 14 Nov 9:00-9:50".</summary>
    public string? Extra { get; init; } = "";

    /// <summary>What sessions are counted as.</summary>
    public string? NumberLabel { get; init; } = "";

    /// <summary>For others than who added it, and those who may change everything, only its times.</summary>
    public bool IsPrivate { get; init; }

    /// <summary>It is not certain yet that it takes place.</summary>
    public bool IsTentative { get; init; }

    /// <summary>The groups and people it is only for, as <see cref="AudienceInput"/> has them.</summary>
    public IReadOnlyList<string>? Only { get; init; }

    /// <summary>E-mail addresses of others it is for.</summary>
    public string? OnlyOthers { get; init; } = "";

    /// <summary>The version the form was made from; 0 for a new series.</summary>
    public int Version { get; init; }

    /// <summary>Where a week begins for "every other week", by its English name; empty for the school's.</summary>
    public string? WeekStart { get; init; } = "";

    /// <summary>Days on which its sessions are left out, a line or a comma apart; each becomes a change of its session.</summary>
    public string? Except { get; init; } = "";

    /// <summary>The choice of <see cref="Period"/> for an entry without a time.</summary>
    public const string AllDay = "all day";

    /// <summary>The most characters in a title.</summary>
    public const int LongestTitle = 200;

    /// <summary>The form of a stored series.</summary>
    public static SeriesInput Of(Series series)
    {
        var pattern = series.Pattern;
        var clock = pattern.Time as SessionTime.Clock;
        var weekly = pattern.Repeat.WeeklyDays;
        var monthly = pattern.Repeat is Repeat.ByRule { Rule: var byRule } ? MonthlyInput.Of(byRule) : null;
        return new SeriesInput
        {
            Title = series.Title,
            Description = series.Description,
            Place = series.Place,
            Days = [.. weekly.Select(day => ((int)day).ToString(CultureInfo.InvariantCulture))],
            EveryWeeks = weekly.IsEmpty
                ? "1"
                : ((Repeat.ByRule)pattern.Repeat).Rule.Interval.ToString(CultureInfo.InvariantCulture),
            Period = pattern.Time switch
            {
                SessionTime.InPeriod named => named.Period,
                SessionTime.AllDay => AllDay,
                _ => "",
            },
            Start = clock is null ? "" : clock.Start.ToString("HH:mm", CultureInfo.InvariantCulture),
            End = clock is null ? "" : clock.End.ToString("HH:mm", CultureInfo.InvariantCulture),
            From = LocalDatePattern.Iso.Format(pattern.From),
            Extent = pattern.Extent switch
            {
                Core.Series.Extent.WithTerm => "term",
                Core.Series.Extent.Until => "until",
                Core.Series.Extent.Held => "held",
                _ => "open",
            },
            Term = (pattern.Extent as Core.Series.Extent.WithTerm)?.Term.Value.ToString(CultureInfo.InvariantCulture)
                ?? "",
            Until = pattern.Extent is Core.Series.Extent.Until until ? LocalDatePattern.Iso.Format(until.Day) : "",
            Held = (pattern.Extent as Core.Series.Extent.Held)?.Sessions.ToString(CultureInfo.InvariantCulture) ?? "",
            Link = series.JoinLink?.Value.ToString(CultureInfo.InvariantCulture) ?? "",
            Meets = pattern.Repeat switch
            {
                Repeat.OnCycleDays => "cycle",
                Repeat.OnDates => "dates",
                _ => !weekly.IsEmpty ? "weekly"
                : monthly is not null ? "monthly"
                : "rule",
            },
            Monthly = monthly ?? new(),
            CycleDays = pattern.Repeat is Repeat.OnCycleDays cycle ? cycle.Names : [],
            Dates = pattern.Repeat is Repeat.OnDates dates
                ? string.Join('\n', dates.Dates.Select(LocalDatePattern.Iso.Format))
                : "",
            Rule = weekly.IsEmpty && pattern.Repeat is Repeat.ByRule rule ? rule.Rule.ToString() : "",
            NoClass = pattern.NoClass.ToString(),
            Zone = pattern.Zone.Id,
            Extra = string.Join(
                '\n',
                pattern.Extra.Select(extra => $"{LocalDatePattern.Iso.Format(extra.Day)} {SayBack.Typed(extra.Time)}")
            ),
            Later = pattern.Time switch
            {
                SessionTime.Clock { Nights: var nights } => nights,
                SessionTime.AllDay { Days: var days } => days - 1,
                _ => 0,
            }
                is > 0
                    and var later
                ? later.ToString(CultureInfo.InvariantCulture)
                : "",
            NumberLabel = series.NumberLabel,
            IsPrivate = series.IsPrivate,
            IsTentative = series.IsTentative,
            Only = AudienceInput.TicksOf(series.OnlyFor),
            Version = series.Version,
            WeekStart = pattern.Repeat is Repeat.ByRule { Rule: { Interval: > 1, WeekStart: var weekStart } }
                ? weekStart.ToString()
                : "",
        };
    }

    /// <summary>The form as a quick entry fills it; what the line does not say stays as it was.</summary>
    public SeriesInput With(QuickReading reading)
    {
        var form = this;
        if (reading.Title.Length > 0)
            form = form with { Title = reading.Title };
        if (reading.Place.Length > 0)
            form = form with { Place = reading.Place };
        if (reading.Link.Length > 0)
            form = form with { Link = "new", LinkTarget = reading.Link };
        if (!reading.Except.IsEmpty)
            form = form with
            {
                Except = string.Join(
                    '\n',
                    reading.Except.Select(span =>
                        span.Length == 1 ? Day(span.First) : $"{Day(span.First)} to {Day(span.Last)}"
                    )
                ),
            };
        if (reading.From is { } from)
            form = form with { From = LocalDatePattern.Iso.Format(from) };
        form = reading.Repeat switch
        {
            Repeat.OnCycleDays cycle => form with { Meets = "cycle", CycleDays = cycle.Names },
            Repeat.OnDates dates => form with
            {
                Meets = "dates",
                Dates = string.Join('\n', dates.Dates.Select(LocalDatePattern.Iso.Format)),
            },
            Repeat.ByRule { WeeklyDays: { IsEmpty: false } days, Rule.Interval: var weeks } => form with
            {
                Meets = "weekly",
                Days = [.. days.Select(day => ((int)day).ToString(CultureInfo.InvariantCulture))],
                EveryWeeks = weeks.ToString(CultureInfo.InvariantCulture),
            },
            Repeat.ByRule rule when MonthlyInput.Of(rule.Rule) is { } monthly => form with
            {
                Meets = "monthly",
                Monthly = monthly,
            },
            Repeat.ByRule rule => form with { Meets = "rule", Rule = rule.Rule.ToString() },
            _ => form,
        };
        form = reading.Time switch
        {
            SessionTime.Clock clock => form with
            {
                Period = "",
                Later = "",
                Start = clock.Start.ToString("HH:mm", CultureInfo.InvariantCulture),
                End = clock.End.ToString("HH:mm", CultureInfo.InvariantCulture),
            },
            SessionTime.InPeriod named => form with { Period = named.Period },
            SessionTime.AllDay => form with { Period = AllDay, Later = "" },
            _ when reading.Start is { } start => form with
            {
                Period = "",
                Start = start.ToString("HH:mm", CultureInfo.InvariantCulture),
            },
            _ => form,
        };
        form = reading.Extent switch
        {
            Core.Series.Extent.Until until => form with
            {
                Extent = "until",
                Until = LocalDatePattern.Iso.Format(until.Day),
            },
            Core.Series.Extent.Held held => form with
            {
                Extent = "held",
                Held = held.Sessions.ToString(CultureInfo.InvariantCulture),
            },
            Core.Series.Extent.WithTerm with => form with
            {
                Extent = "term",
                Term = with.Term.Value.ToString(CultureInfo.InvariantCulture),
            },
            Core.Series.Extent.Open => form with { Extent = "open" },
            _ => form,
        };
        static string Day(LocalDate day) => LocalDatePattern.Iso.Format(day);

        return reading.Parts.Any(part => part.Field == QuickField.Numbering)
            ? form with
            {
                NumberLabel = reading.CountedAs(form.Title ?? ""),
            }
            : form;
    }
}
