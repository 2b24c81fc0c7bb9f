using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>The stores of one reading or writing, one for each kind of thing; all speak over one connection.</summary>
public sealed class Stores
{
    private readonly RowReader rows = new();

    /// <summary>Makes the stores of one connection.</summary>
    public Stores(SqliteConnection connection)
    {
        School = new(connection, rows);
        People = new(connection, rows);
        Calendars = new(connection, rows);
        JoinLinks = new(connection, rows);
        Series = new(connection, rows);
        Materials = new(connection, rows);
        Outlets = new(connection, rows);
        History = new(connection);
    }

    /// <summary>What could not be read in this reading so far.</summary>
    public IReadOnlyList<Unreadable> Unreadable => rows.Found;

    /// <summary>The school, its terms, no-class days, bells and cycle.</summary>
    public SchoolStore School { get; }

    /// <summary>People and groups.</summary>
    public PeopleStore People { get; }

    /// <summary>Calendars and their grants.</summary>
    public CalendarStore Calendars { get; }

    /// <summary>Join links and what is behind them.</summary>
    public JoinLinkStore JoinLinks { get; }

    /// <summary>Series.</summary>
    public SeriesStore Series { get; }

    /// <summary>Materials.</summary>
    public MaterialStore Materials { get; }

    /// <summary>Feeds and embeds.</summary>
    public OutletStore Outlets { get; }

    /// <summary>Who did what, when.</summary>
    public HistoryStore History { get; }
}
