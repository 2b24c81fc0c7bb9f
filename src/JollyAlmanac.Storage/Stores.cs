using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>The stores of one reading or writing, one for each kind of thing; all speak over one connection.</summary>
public sealed class Stores(SqliteConnection connection)
{
    /// <summary>The school, its terms, no-class days, bells and cycle.</summary>
    public SchoolStore School { get; } = new(connection);

    /// <summary>People and groups.</summary>
    public PeopleStore People { get; } = new(connection);

    /// <summary>Calendars and their grants.</summary>
    public CalendarStore Calendars { get; } = new(connection);

    /// <summary>Join links and what is behind them.</summary>
    public JoinLinkStore JoinLinks { get; } = new(connection);

    /// <summary>Series.</summary>
    public SeriesStore Series { get; } = new(connection);

    /// <summary>Materials.</summary>
    public MaterialStore Materials { get; } = new(connection);

    /// <summary>Feeds and embeds.</summary>
    public OutletStore Outlets { get; } = new(connection);

    /// <summary>Who did what, when.</summary>
    public HistoryStore History { get; } = new(connection);
}
