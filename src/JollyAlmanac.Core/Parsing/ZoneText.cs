using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Core.Parsing;

/// <summary>
/// Finds the zone that somebody means: "America/St_Johns", "St Johns", "st. john's", or a name of Unicode CLDR's windowsZones table.
/// "EST" and the like are none: in the IANA database they are fixed offsets without summer time, and nobody who writes one means that.
/// </summary>
public static class ZoneText
{
    /// <summary>The longest name that is looked at.</summary>
    public const int Longest = 60;

    private static readonly Lazy<ILookup<string, string>> Places = new(() =>
        TzdbDateTimeZoneSource
            .Default.CanonicalIdMap.Where(one =>
                one.Key.Contains('/', StringComparison.Ordinal) && !one.Key.StartsWith("Etc/", StringComparison.Ordinal)
            )
            .ToLookup(one => Plain(one.Key[(one.Key.LastIndexOf('/') + 1)..]), one => one.Value, StringComparer.Ordinal)
    );

    /// <summary>The zone; null where the text is none, or could be several.</summary>
    /// <example>
    /// <code>
    /// ZoneText.Find("Halifax") // America/Halifax
    /// ZoneText.Find("EST") // null
    /// </code>
    /// </example>
    public static DateTimeZone? Find(string text)
    {
        text = text.Trim();
        if (text.Length is 0 or > Longest)
            return null;
        if (text.Equals("UTC", StringComparison.OrdinalIgnoreCase))
            return DateTimeZone.Utc;
        if (
            DateTimeZoneProviders.Tzdb.Ids.FirstOrDefault(id =>
                id.Contains('/', StringComparison.Ordinal)
                && !id.StartsWith("Etc/", StringComparison.Ordinal)
                && id.Equals(text.Replace(' ', '_'), StringComparison.OrdinalIgnoreCase)
            ) is
            { } alike
        )
            return DateTimeZoneProviders.Tzdb[alike];
        if (Places.Value[Plain(text)].Distinct().ToList() is [var only])
            return DateTimeZoneProviders.Tzdb[only];
        return
            TzdbDateTimeZoneSource.Default.WindowsMapping.PrimaryMapping.FirstOrDefault(one =>
                one.Key.Equals(text, StringComparison.OrdinalIgnoreCase)
            )
                is { Value: { } mapped }
            ? DateTimeZoneProviders.Tzdb[mapped]
            : null;
    }

    private static string Plain(string text) => new([.. text.ToLowerInvariant().Where(char.IsLetterOrDigit)]);
}
