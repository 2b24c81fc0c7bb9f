using Dapper;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Mail;

/// <summary>Letters that are to go out, and that went. Their text is made when they go.</summary>
public sealed class LetterStore
{
    private const string Columns =
        "select id, kind, person_id as PersonRef, about_id as About, made_at as MadeAt, due_at as DueAt, tries, sent_at as SentAt, given_up_at as GivenUpAt, problem from letters";

    private const string IsWaiting = "sent_at is null and given_up_at is null and not_needed_at is null";

    private readonly SqliteConnection connection;

    internal LetterStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Writes down a letter.</summary>
    /// <param name="kind">What kind.</param>
    /// <param name="to">For whom.</param>
    /// <param name="about">About what.</param>
    /// <param name="now">When.</param>
    /// <param name="due">When it is to go; null for as soon as it can.</param>
    public void Add(LetterKind kind, PersonId to, long about, Instant now, Instant? due = null) =>
        connection.Execute(
            "insert into letters (kind, person_id, about_id, made_at, due_at) values (@kind, @to, @about, @now, @due)",
            new
            {
                kind = Stored.Text(kind),
                to = to.Value,
                about,
                now = now.ToUnixTimeMilliseconds(),
                due = (due ?? now).ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Whether a letter about a thing waits that was not tried yet.</summary>
    public bool Waits(LetterKind kind, long about) =>
        connection.ExecuteScalar<long>(
            $"select count(*) from letters where kind = @kind and about_id = @about and tries = 0 and {IsWaiting}",
            new { kind = Stored.Text(kind), about }
        ) > 0;

    /// <summary>Whether somebody was written a letter of that kind about that since then.</summary>
    public bool WasMade(LetterKind kind, PersonId to, long about, Instant since) =>
        connection.ExecuteScalar<bool>(
            "select exists (select 1 from letters where kind = @kind and person_id = @to and about_id = @about and made_at >= @since)",
            new
            {
                kind = Stored.Text(kind),
                to = to.Value,
                about,
                since = since.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Whether somebody was written a letter of that kind since then.</summary>
    public bool WasMade(LetterKind kind, PersonId to, Instant since) =>
        connection.ExecuteScalar<long>(
            "select exists (select 1 from letters where kind = @kind and person_id = @to and made_at >= @since)",
            new
            {
                kind = Stored.Text(kind),
                to = to.Value,
                since = since.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Whether a letter about a thing may have got there: it went, or is on its way.</summary>
    /// <param name="kind">What kind.</param>
    /// <param name="about">About what.</param>
    /// <param name="except">The letter that asks.</param>
    public bool HasGone(LetterKind kind, long about, long except) =>
        connection.ExecuteScalar<long>(
            "select count(*) from letters where kind = @kind and about_id = @about and id <> @except and not_needed_at is null and (sent_at is not null or tries > 0)",
            new
            {
                kind = Stored.Text(kind),
                about,
                except,
            }
        ) > 0;

    /// <summary>
    /// Takes the letter that has been due for longest. Nobody else takes it until the time that is given; whoever took it and was
    /// stopped leaves it to be tried then.
    /// </summary>
    public QueuedLetter? Take(Instant now, Instant until)
    {
        if (
            Read(
                $"where {IsWaiting} and due_at <= @now order by due_at, id limit 1",
                new { now = now.ToUnixTimeMilliseconds() }
            )
            is not [var letter]
        )
            return null;
        connection.Execute(
            "update letters set due_at = @until, tries = tries + 1 where id = @id",
            new { id = letter.Id, until = until.ToUnixTimeMilliseconds() }
        );
        return letter with { Tries = letter.Tries + 1 };
    }

    /// <summary>When the next letter is due; null where none waits.</summary>
    public Instant? NextDue() =>
        connection.ExecuteScalar<long?>($"select min(due_at) from letters where {IsWaiting}") is { } at
            ? Stored.At(at)
            : null;

    /// <summary>Notes that a letter went.</summary>
    public void Sent(long id, Instant now) =>
        connection.Execute(
            "update letters set sent_at = @now, problem = '' where id = @id",
            new { id, now = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>Notes that what a letter was about is settled, so that it never goes.</summary>
    public void NotNeeded(long id, Instant now) =>
        connection.Execute(
            "update letters set not_needed_at = @now where id = @id",
            new { id, now = now.ToUnixTimeMilliseconds() }
        );

    /// <summary>Notes that a try failed, and when it is tried again; null to give it up.</summary>
    public void Failed(long id, string problem, Instant? again, Instant now) =>
        connection.Execute(
            "update letters set problem = @problem, due_at = ifnull(@again, due_at), given_up_at = case when @again is null then @now end where id = @id",
            new
            {
                id,
                problem,
                again = again?.ToUnixTimeMilliseconds(),
                now = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Tries a letter that was given up once more.</summary>
    public bool TryAgain(long id, Instant now) =>
        connection.Execute(
            "update letters set given_up_at = null, tries = 0, due_at = @now where id = @id and given_up_at is not null and sent_at is null",
            new { id, now = now.ToUnixTimeMilliseconds() }
        ) == 1;

    /// <summary>Letters that wait after a failed try, and those that were given up; the newest first.</summary>
    public IReadOnlyList<QueuedLetter> Troubled(int most) =>
        Read(
            $"where not_needed_at is null and sent_at is null and (given_up_at is not null or tries > 0) order by id desc limit @most",
            new { most }
        );

    /// <summary>How many wait.</summary>
    public int Waiting() => (int)connection.ExecuteScalar<long>($"select count(*) from letters where {IsWaiting}");

    private List<QueuedLetter> Read(string where, object values) =>
        [
            .. connection
                .Query<LetterRow>($"{Columns} {where}", values)
                .Where(row => Enum.TryParse<LetterKind>(row.Kind, ignoreCase: true, out _))
                .Select(row => new QueuedLetter(
                    row.Id,
                    Enum.Parse<LetterKind>(row.Kind, ignoreCase: true),
                    new PersonId(row.PersonRef),
                    row.About,
                    Stored.At(row.MadeAt),
                    Stored.At(row.DueAt),
                    (int)row.Tries,
                    row.SentAt is { } sent ? Stored.At(sent) : null,
                    row.GivenUpAt is { } at ? Stored.At(at) : null,
                    row.Problem
                )),
        ];

    private sealed record LetterRow(
        long Id,
        string Kind,
        long PersonRef,
        long About,
        long MadeAt,
        long DueAt,
        long Tries,
        long? SentAt,
        long? GivenUpAt,
        string Problem
    );
}
