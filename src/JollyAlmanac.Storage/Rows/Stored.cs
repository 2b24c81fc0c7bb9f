using System.Collections.Frozen;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Storage.Rows;

/// <summary>How values stand in columns: local times as ISO text, instants as epoch milliseconds, names of enums in lower case.</summary>
internal static class Stored
{
    public static string Text(LocalDate day) => LocalDatePattern.Iso.Format(day);

    public static string Text(LocalTime time) => TimePattern.Format(time);

    public static string Text(LocalDateTime original) => SessionKey.TextOf(original);

    public static string Text<T>(T value)
        where T : struct, Enum => value.ToString().ToLowerInvariant();

    public static LocalDate Day(string text) =>
        LocalDatePattern.Iso.Parse(text) is { Success: true, Value: { Year: >= 1900 and <= 2200 } day }
            ? day
            : throw new FormatException($"“{text}” is no day");

    public static LocalTime Time(string text) => TimePattern.Parse(text).Value;

    public static LocalDateTime Original(string text) =>
        SessionKey.TryReadOriginal(text, out var original)
            ? original
            : throw new FormatException($"“{text}” is no start of a session");

    // By its name alone: Enum.Parse takes numbers and lists, too.
    public static T As<T>(string text)
        where T : struct, Enum =>
        Names<T>.All.TryGetValue(text, out var value)
            ? value
            : throw new FormatException(
                $"“{text}” is none of {string.Join(", ", Enum.GetNames<T>()).ToLowerInvariant()}"
            );

    private static class Names<T>
        where T : struct, Enum
    {
        public static readonly FrozenDictionary<string, T> All = Enum.GetNames<T>()
            .ToFrozenDictionary(name => name, Enum.Parse<T>, StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>"g12 g13 p7"; null for all.</summary>
    public static string? Text(Audience? only) =>
        only is null
            ? null
            : string.Join(
                ' ',
                only.Groups.Select(group => $"g{group.Value}").Concat(only.People.Select(person => $"p{person.Value}"))
            );

    // What names nobody is nobody's: never everybody's.
    public static Audience? Only(string? text)
    {
        if (text is null)
            return null;
        var parts = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        IEnumerable<long> Ids(char kind) =>
            parts
                .Where(part => part[0] == kind)
                .Select(part =>
                    long.Parse(
                        part.AsSpan(1),
                        System.Globalization.NumberStyles.None,
                        System.Globalization.CultureInfo.InvariantCulture
                    )
                );
        return parts.All(part => part[0] is 'g' or 'p')
            ? new Audience([.. Ids('g').Select(id => new GroupId(id))], [.. Ids('p').Select(id => new PersonId(id))])
            : throw new FormatException($"“{text}” does not say for whom it is");
    }

    /// <summary>"now", "hand", "from 2026-10-19T08:00", "start -30" or "end 60".</summary>
    public static string Text(Release release) =>
        release switch
        {
            Release.AtOnce => "now",
            Release.ByHand => "hand",
            Release.From from => $"from {Text(from.At)}",
            Release.WithSession with => string.Create(
                System.Globalization.CultureInfo.InvariantCulture,
                $"{(with.AfterEnd ? "end" : "start")} {with.Minutes}"
            ),
            _ => throw new InvalidOperationException($"{release} has no text."),
        };

    // What does not say when is refused: never given at once.
    public static Release ReleaseOf(string text) =>
        text.Split(' ') switch
        {
            ["now"] => Release.Now,
            ["hand"] => new Release.ByHand(),
            ["from", var at] => new Release.From(Original(at)),
            [("start" or "end") and var edge, var minutes]
                when int.TryParse(
                    minutes,
                    System.Globalization.NumberStyles.AllowLeadingSign,
                    System.Globalization.CultureInfo.InvariantCulture,
                    out var count
                ) => new Release.WithSession(edge == "end", count),
            _ => throw new FormatException($"“{text}” does not say when it is given"),
        };

    public static string? Text(Due? due) =>
        due switch
        {
            null => null,
            Due.On { Day: var day, Time: { } time } => $"{Text(day)} {Text(time)}",
            Due.On { Day: var day } => Text(day),
            Due.WithSession => "session",
            _ => throw new InvalidOperationException($"{due} has no text."),
        };

    public static Due? DueOf(string? text) =>
        text?.Split(' ') switch
        {
            null => null,
            ["session"] => new Due.WithSession(),
            [var day] => new Due.On(Day(day), null),
            [var day, var time] => new Due.On(Day(day), Time(time)),
            _ => throw new FormatException($"“{text}” does not say by when it is to be done"),
        };

    public static Instant At(long milliseconds) => Instant.FromUnixTimeMilliseconds(milliseconds);

    public static DateTimeZone Zone(string id) =>
        DateTimeZoneProviders.Tzdb.GetZoneOrNull(id)
        ?? throw new FormatException($"“{id}” is no zone of the IANA database");

    private static readonly LocalTimePattern TimePattern = LocalTimePattern.CreateWithInvariantCulture("HH:mm");
}
