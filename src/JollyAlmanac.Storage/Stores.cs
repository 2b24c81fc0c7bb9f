using JollyAlmanac.Core.Data;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.Calendars;
using JollyAlmanac.Storage.History;
using JollyAlmanac.Storage.JoinLinks;
using JollyAlmanac.Storage.Mail;
using JollyAlmanac.Storage.Materials;
using JollyAlmanac.Storage.People;
using JollyAlmanac.Storage.Publishing;
using JollyAlmanac.Storage.Rows;
using JollyAlmanac.Storage.Schools;
using JollyAlmanac.Storage.Search;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>The stores of one reading or writing, one for each kind of thing; all speak over one connection.</summary>
public sealed class Stores
{
    private readonly RowReader rows = new();

    /// <summary>Makes the stores of one connection.</summary>
    /// <param name="connection">The connection, in a transaction.</param>
    /// <param name="cache">What earlier readings derived; null for a writing.</param>
    public Stores(SqliteConnection connection, RevisionCache? cache = null)
    {
        Cached = new(cache, rows);
        School = new(connection, rows, Cached);
        People = new(connection, rows);
        Groups = new(connection, rows);
        SignIns = new(connection);
        Invitations = new(connection);
        Letters = new(connection);
        Requests = new(connection, rows);
        RosterImports = new(connection);
        SchoolImports = new(connection);
        Calendars = new(connection, rows, Cached);
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
        FreeLinks = new(connection, rows);
        Absences = new(connection, rows);
        History = new(connection);
    }

    /// <summary>What could not be read in this reading so far.</summary>
    public IReadOnlyList<Unreadable> Unreadable => rows.Found;

    /// <summary>What is derived from rows, from the cache where this is a reading.</summary>
    public CachedReads Cached { get; }

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

    /// <summary>What files of the whole school said.</summary>
    public SchoolImportStore SchoolImports { get; }

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

    /// <summary>Links to people's free times.</summary>
    public FreeLinkStore FreeLinks { get; }

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
