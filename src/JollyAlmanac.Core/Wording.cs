using System.Globalization;
using NodaTime;

namespace JollyAlmanac.Core;

/// <summary>
/// How times, days and amounts are written for people: "9:50–10:40", "Mon 14 Sep", "31 h 40", "Mon, Wed and Fri".
/// </summary>
public static class Wording
{
    private static readonly CultureInfo English = CultureInfo.InvariantCulture;

    /// <summary>"13:30", or "1:30 pm" where the culture that is current goes by twelve hours (<see cref="Culture"/>).</summary>
    /// <example>
    /// <code>
    /// Wording.Of(new LocalTime(13, 30)) // 13:30
    /// </code>
    /// </example>
    public static string Of(LocalTime time) =>
        IsTwelve ? $"{TwelveOf(time)} {Half(time)}" : time.ToString("H:mm", English);

    /// <summary>
    /// A time as a form shows it, to be read back as the same: "04:30", or "4:30 am" by twelve hours. Without the nought it would be what
    /// people write when they mean the afternoon.
    /// </summary>
    public static string Typed(LocalTime time) => IsTwelve ? Of(time) : time.ToString("HH:mm", English);

    /// <summary>"04:30-05:20", as a form shows it.</summary>
    /// <example>
    /// <code>
    /// Wording.Typed(new LocalTime(4, 30), new LocalTime(5, 20)) // 04:30-05:20
    /// </code>
    /// </example>
    public static string Typed(LocalTime start, LocalTime end) => $"{Typed(start)}-{Typed(end)}";

    /// <summary>
    /// The culture under which times are written by twelve hours or by twenty-four, and the month before the day or behind it; all else
    /// stays as it is.
    /// </summary>
    /// <param name="twelveHours">"1:30 pm".</param>
    /// <param name="monthFirst">"Mon Sep 14".</param>
    public static CultureInfo Culture(bool twelveHours, bool monthFirst = false) =>
        Cultures[(twelveHours ? 2 : 0) + (monthFirst ? 1 : 0)];

    private static readonly CultureInfo[] Cultures =
    [
        Make(twelveHours: false, monthFirst: false),
        Make(false, true),
        Make(true, false),
        Make(true, true),
    ];

    private static bool IsTwelve =>
        CultureInfo.CurrentCulture.DateTimeFormat.ShortTimePattern.Contains('t', StringComparison.Ordinal);

    /// <summary>Whether the reader has dates written with the month first.</summary>
    public static bool IsMonthFirst => CultureInfo.CurrentCulture.DateTimeFormat.MonthDayPattern == MonthDay;

    private const string MonthDay = "MMM d";

    private static CultureInfo Make(bool twelveHours, bool monthFirst)
    {
        var culture = (CultureInfo)English.Clone();
        if (twelveHours)
            culture.DateTimeFormat.ShortTimePattern = "h:mm tt";
        culture.DateTimeFormat.MonthDayPattern = monthFirst ? MonthDay : "d MMM";
        return CultureInfo.ReadOnly(culture);
    }

    private static string TwelveOf(LocalTime time) => time.ToString("h:mm", English);

    private static string Half(LocalTime time) => time.Hour < 12 ? "am" : "pm";

    /// <summary>A zone by its place: "St Johns" for America/St_Johns.</summary>
    /// <example>
    /// <code>
    /// Wording.Place(DateTimeZoneProviders.Tzdb["America/St_Johns"]) // St Johns
    /// </code>
    /// </example>
    public static string Place(DateTimeZone zone) => zone.Id.Split('/')[^1].Replace('_', ' ');

    /// <summary>"9:50–10:40", "1:30–2:15 pm", "11:30 am–12:20 pm".</summary>
    /// <example>
    /// <code>
    /// Wording.Span(new LocalTime(9, 50), new LocalTime(10, 40)) // 9:50–10:40
    /// </code>
    /// </example>
    public static string Span(LocalTime start, LocalTime end) =>
        IsTwelve && Half(start) == Half(end) ? $"{TwelveOf(start)}–{Of(end)}" : $"{Of(start)}–{Of(end)}";

    /// <summary>"Mon 14 Sep", or "Mon Sep 14" for who reads the month first.</summary>
    /// <example>
    /// <code>
    /// Wording.WithWeekday(new LocalDate(2026, 9, 14)) // Mon 14 Sep
    /// </code>
    /// </example>
    public static string WithWeekday(LocalDate day) => day.ToString(IsMonthFirst ? "ddd MMM d" : "ddd d MMM", English);

    /// <summary>"Monday 14 September", or "Monday, September 14".</summary>
    /// <example>
    /// <code>
    /// Wording.InFull(new LocalDate(2026, 9, 14)) // Monday 14 September
    /// </code>
    /// </example>
    public static string InFull(LocalDate day) => day.ToString(IsMonthFirst ? "dddd, MMMM d" : "dddd d MMMM", English);

    /// <summary>"14 Sep", or "Sep 14".</summary>
    /// <example>
    /// <code>
    /// Wording.Brief(new LocalDate(2026, 9, 14)) // 14 Sep
    /// </code>
    /// </example>
    public static string Brief(LocalDate day) => day.ToString(IsMonthFirst ? MonthDay : "d MMM", English);

    /// <summary>"14 Sep 2026", or "Sep 14, 2026".</summary>
    /// <example>
    /// <code>
    /// Wording.WithYear(new LocalDate(2026, 9, 14)) // 14 Sep 2026
    /// </code>
    /// </example>
    public static string WithYear(LocalDate day) => day.ToString(IsMonthFirst ? "MMM d, yyyy" : "d MMM yyyy", English);

    /// <summary>"Wed 11 Nov", "22–23 Oct", "19 Dec–3 Jan".</summary>
    /// <example>
    /// <code>
    /// Wording.Days(new LocalDate(2026, 10, 22), new LocalDate(2026, 10, 23)) // 22–23 Oct
    /// Wording.Days(new LocalDate(2026, 12, 19), new LocalDate(2027, 1, 3)) // 19 Dec–3 Jan
    /// </code>
    /// </example>
    public static string Days(LocalDate first, LocalDate last) =>
        first == last ? WithWeekday(first)
        : first.Month == last.Month && first.Year == last.Year
            ? IsMonthFirst ? $"{Brief(first)}–{last.Day}"
                : $"{first.Day}–{Brief(last)}"
        : $"{Brief(first)}–{Brief(last)}";

    /// <summary>"Mon".</summary>
    /// <example>
    /// <code>
    /// Wording.Brief(IsoDayOfWeek.Monday) // Mon
    /// </code>
    /// </example>
    public static string Brief(IsoDayOfWeek day) => day.ToString()[..3];

    /// <summary>"31 h 40", "10 h", "50 min".</summary>
    /// <example>
    /// <code>
    /// Wording.Amount(1900) // 31 h 40
    /// Wording.Amount(50) // 50 min
    /// </code>
    /// </example>
    public static string Amount(int minutes) =>
        (minutes / 60, minutes % 60) switch
        {
            (0, var rest) => $"{rest} min",
            (var hours, 0) => $"{hours} h",
            var (hours, rest) => string.Create(English, $"{hours} h {rest:00}"),
        };

    /// <summary>"in 9 minutes", "in 2 hours", "in 3 days"; minutes are rounded up.</summary>
    /// <example>
    /// <code>
    /// Wording.Until(Duration.FromSeconds(490)) // in 9 minutes
    /// </code>
    /// </example>
    public static string Until(Duration wait) =>
        wait.TotalMinutes switch
        {
            <= 1 => "in a minute",
            < 60 => $"in {Math.Ceiling(wait.TotalMinutes)} minutes",
            < 90 => "in an hour",
            < 60 * 24 => $"in {Math.Round(wait.TotalHours)} hours",
            < 60 * 36 => "in a day",
            _ => $"in {Math.Round(wait.TotalDays)} days",
        };

    /// <summary>"Mon, Wed and Fri".</summary>
    /// <example>
    /// <code>
    /// Wording.List(["Mon", "Wed", "Fri"]) // Mon, Wed and Fri
    /// </code>
    /// </example>
    public static string List(IReadOnlyList<string> items) =>
        items.Count switch
        {
            0 => "",
            1 => items[0],
            _ => $"{string.Join(", ", items.Take(items.Count - 1))} and {items[^1]}",
        };

    /// <summary>The first six of a list, and how many more there are: "A, B, C, D, E, F and 3 more".</summary>
    public static string Few(IReadOnlyList<string> items) =>
        List(items.Count > 7 ? [.. items.Take(6), $"{items.Count - 6} more"] : items);

    /// <summary>A word of somebody's in a message: not more of it than is needed to know it again.</summary>
    public static string Quote(string text) =>
        text.Trim() is { Length: > 60 } longer ? $"“{longer[..60]}…”" : $"“{text.Trim()}”";

    /// <summary>"1 session", "38 sessions".</summary>
    /// <example>
    /// <code>
    /// Wording.Count(1, "session", "sessions") // 1 session
    /// Wording.Count(38, "session", "sessions") // 38 sessions
    /// </code>
    /// </example>
    public static string Count(int number, string one, string many) => number == 1 ? $"1 {one}" : $"{number} {many}";

    /// <summary>The same with a capital: "Moved …".</summary>
    /// <example>
    /// <code>
    /// Wording.Capital("moved") // Moved
    /// </code>
    /// </example>
    public static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    /// <summary>"first" to "fifth", each at its number.</summary>
    public static IReadOnlyList<string> SmallOrdinals { get; } = ["", "first", "second", "third", "fourth", "fifth"];

    /// <summary>"1st", "2nd", "3rd", "11th".</summary>
    /// <example>
    /// <code>
    /// Wording.Ordinal(11) // 11th
    /// Wording.Ordinal(22) // 22nd
    /// </code>
    /// </example>
    public static string Ordinal(int number) =>
        number
        + (
            (number % 100) is 11 or 12 or 13
                ? "th"
                : (number % 10) switch
                {
                    1 => "st",
                    2 => "nd",
                    3 => "rd",
                    _ => "th",
                }
        );
}
