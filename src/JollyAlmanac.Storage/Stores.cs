using JollyAlmanac.Core.Keeping;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>The stores of one reading or writing, one for each kind of thing; all speak over one connection.</summary>
public sealed class Stores
{
    private readonly RowReader rows = new();

    private readonly RevisionCache? kept;

    /// <summary>Makes the stores of one connection.</summary>
    /// <param name="connection">The connection, in a transaction.</param>
    /// <param name="kept">What earlier readings have kept; null for a writing.</param>
    public Stores(SqliteConnection connection, RevisionCache? kept = null)
    {
        this.kept = kept;
        School = new(connection, rows, this);
        People = new(connection, rows);
        Groups = new(connection, rows);
        SignIns = new(connection);
        Invitations = new(connection);
        Letters = new(connection);
        Requests = new(connection, rows);
        RosterImports = new(connection);
        Calendars = new(connection, rows, this);
        JoinLinks = new(connection, rows);
        Series = new(connection, rows);
        Materials = new(connection, rows);
        Uploads = new(connection);
        Search = new(connection);
        Publications = new(connection, rows);
        Mailings = new(connection, rows);
        Imports = new(connection);
        FetchedFiles = new(connection);
        Copies = new(connection);
        Notices = new(connection, rows);
        OwnFeeds = new(connection);
        Absences = new(connection, rows);
        History = new(connection);
    }

    /// <summary>What could not be read in this reading so far.</summary>
    public IReadOnlyList<Unreadable> Unreadable => rows.Found;

    /// <summary>A value that was made before and still stands; else it is made, and kept where this is a reading.</summary>
    /// <param name="key">What it is of.</param>
    /// <param name="standing">How that stands now, read in this same reading.</param>
    /// <param name="make">Makes it from the stores alone; immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public T Keep<T>(object key, object standing, Func<T> make, Func<T, int> size)
        where T : class => Keep(key, standing, _ => make(), size);

    /// <summary>A value that was made before and still stands; else it is made, from what was made before where there is that.</summary>
    /// <param name="key">What it is of.</param>
    /// <param name="standing">How that stands now, read in this same reading.</param>
    /// <param name="make">Makes it from the stores and the value before it alone, null for none; immutable.</param>
    /// <param name="size">How large it is, in sessions or rows.</param>
    public T Keep<T>(object key, object standing, Func<T?, T> make, Func<T, int> size)
        where T : class
    {
        if (kept is null)
            return make(null);
        if (kept.Find<KeptValue<T>>(key, standing) is { } found)
        {
            rows.Tell(found.Unreadable);
            return found.Value;
        }

        var before = kept.Last<KeptValue<T>>(key)?.Value;
        var (value, unreadable) = rows.Gather(() => make(before));
        kept.Keep(key, standing, new KeptValue<T>(value, unreadable), size(value) + unreadable.Count);
        return value;
    }

    // What could not be read of it is told as often as it is used.
    private sealed record KeptValue<T>(T Value, IReadOnlyList<Unreadable> Unreadable);

    /// <summary>The school, its terms, no-class days, bells and cycle.</summary>
    public SchoolStore School { get; }

    /// <summary>People.</summary>
    public PeopleStore People { get; }

    /// <summary>Groups and who is in them.</summary>
    public GroupStore Groups { get; }

    /// <summary>Where people are signed in.</summary>
    public SignInStore SignIns { get; }

    /// <summary>One-time ways in.</summary>
    public InvitationStore Invitations { get; }

    /// <summary>Letters that are to go out, and that went.</summary>
    public LetterStore Letters { get; }

    /// <summary>Who gets sessions by e-mail.</summary>
    public MailingStore Mailings { get; }

    /// <summary>Who asks for access.</summary>
    public AccessRequestStore Requests { get; }

    /// <summary>Lists that are being reviewed.</summary>
    public RosterImportStore RosterImports { get; }

    /// <summary>Calendars and their grants.</summary>
    public CalendarStore Calendars { get; }

    /// <summary>Join links and what is behind them.</summary>
    public JoinLinkStore JoinLinks { get; }

    /// <summary>Series.</summary>
    public SeriesStore Series { get; }

    /// <summary>Materials.</summary>
    public MaterialStore Materials { get; }

    /// <summary>What is found by its words.</summary>
    public SearchStore Search { get; }

    /// <summary>Files on their way in.</summary>
    public UploadStore Uploads { get; }

    /// <summary>Feeds and embeds.</summary>
    public PublicationStore Publications { get; }

    /// <summary>People's own feeds.</summary>
    public OwnFeedStore OwnFeeds { get; }

    /// <summary>Who is away.</summary>
    public AbsenceStore Absences { get; }

    /// <summary>Notices.</summary>
    public NoticeStore Notices { get; }

    /// <summary>Frozen copies that go by mail.</summary>
    public CopyStore Copies { get; }

    /// <summary>Files that were fetched by their address.</summary>
    public FetchedFileStore FetchedFiles { get; }

    /// <summary>What came of files.</summary>
    public ImportStore Imports { get; }

    /// <summary>Who did what, when.</summary>
    public HistoryStore History { get; }
}
