using NodaTime;
using NodaTime.TimeZones;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>What the list of zones shows.</summary>
/// <param name="Zone">The one that is chosen, an id of the IANA database.</param>
/// <param name="Now">The moment whose time is told beside each.</param>
public sealed record ZoneChoice(string? Zone, Instant Now);

/// <summary>Zones to choose from: one for each place in the IANA database.</summary>
internal static class ZoneNames
{
    private static readonly string[] All =
    [
        .. (TzdbDateTimeZoneSource.Default.ZoneLocations ?? [])
            .Select(place => place.ZoneId)
            .Append("UTC")
            .Order(StringComparer.Ordinal),
    ];

    /// <summary>Each with its place and what the clock there shows now, by the part of the world, to choose from in a list.</summary>
    /// <param name="now">The moment.</param>
    public static IEnumerable<IGrouping<string, (string Id, string Words)>> At(Instant now) =>
        All.Select(id =>
                (
                    Id: id,
                    Words: $"{id[(id.IndexOf('/', StringComparison.Ordinal) + 1)..].Replace('_', ' ').Replace("/", ", ", StringComparison.Ordinal)}"
                        + $" · it is {Wording.Of(now.InZone(DateTimeZoneProviders.Tzdb[id]).TimeOfDay)} there"
                )
            )
            .GroupBy(one => one.Id.Contains('/', StringComparison.Ordinal) ? one.Id.Split('/')[0] : "Everywhere");

    /// <summary>Those of the same part of the world first.</summary>
    public static IEnumerable<string> Near(string zone) =>
        All.OrderBy(id => !id.StartsWith(zone.Split('/')[0], StringComparison.Ordinal));
}
