using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Storage;

/// <summary>How values stand in columns: local times as ISO text, instants as epoch milliseconds, names of enums in lower case.</summary>
internal static class Stored
{
    public static string Text(LocalDate day) => LocalDatePattern.Iso.Format(day);

    public static string Text(LocalTime time) => TimePattern.Format(time);

    public static string Text(LocalDateTime time) => DateTimePattern.Format(time);

    public static string Text<T>(T value) where T : struct, Enum => value.ToString().ToLowerInvariant();

    public static LocalDate Day(string text) => LocalDatePattern.Iso.Parse(text).Value;

    public static LocalTime Time(string text) => TimePattern.Parse(text).Value;

    public static LocalDateTime DateTime(string text) => DateTimePattern.Parse(text).Value;

    public static T As<T>(string text) where T : struct, Enum => Enum.Parse<T>(text, ignoreCase: true);

    public static Instant At(long milliseconds) => Instant.FromUnixTimeMilliseconds(milliseconds);

    public static DateTimeZone Zone(string id) => DateTimeZoneProviders.Tzdb[id];

    private static readonly LocalTimePattern TimePattern = LocalTimePattern.CreateWithInvariantCulture("HH:mm");
    private static readonly LocalDateTimePattern DateTimePattern = LocalDateTimePattern.CreateWithInvariantCulture("uuuu-MM-dd'T'HH:mm");
}
