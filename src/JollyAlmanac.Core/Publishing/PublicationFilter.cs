namespace JollyAlmanac.Core.Publishing;

/// <summary>Which feeds and embeds of a school are looked at.</summary>
public enum PublicationFilter
{
    /// <summary>All of them.</summary>
    All,

    /// <summary>Feeds.</summary>
    Feeds,

    /// <summary>Embeds.</summary>
    Embeds,

    /// <summary>Feeds that nobody asked for in a long time, or ever.</summary>
    Idle,

    /// <summary>Those that are paused.</summary>
    Paused,
}

/// <summary>How much a school publishes.</summary>
/// <param name="Feeds">Feeds of calendars.</param>
/// <param name="Embeds">Embeds.</param>
/// <param name="Idle">Of the feeds, those that nobody asked for in a long time, or ever.</param>
/// <param name="Paused">Feeds and embeds that are paused.</param>
/// <param name="OpenToAnyone">Calendars whose class page anyone may open.</param>
/// <param name="OwnFeeds">People who have a feed of their own.</param>
/// <param name="Notices">Notices that are up.</param>
/// <param name="ByMail">People who get sessions of a calendar by mail, each as often as there are calendars.</param>
public sealed record PublishedCounts(
    long Feeds,
    long Embeds,
    long Idle,
    long Paused,
    long OpenToAnyone,
    long OwnFeeds,
    long Notices,
    long ByMail
);
