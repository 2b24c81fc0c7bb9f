using NodaTime.TimeZones;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>Zones to choose from: one for each place in the IANA database.</summary>
internal static class ZoneNames
{
    private static readonly string[] All = [.. (TzdbDateTimeZoneSource.Default.ZoneLocations ?? []).Select(place => place.ZoneId)
        .Append("UTC").Order(StringComparer.Ordinal)];

    /// <summary>Those of the same part of the world first.</summary>
    public static IEnumerable<string> Near(string zone) => All.OrderBy(id => !id.StartsWith(zone.Split('/')[0], StringComparison.Ordinal));
}
