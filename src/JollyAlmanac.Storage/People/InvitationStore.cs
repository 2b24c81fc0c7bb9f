using Dapper;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>What a one-time way in is for.</summary>
public enum InvitationPurpose
{
    /// <summary>Somebody is invited to sign in for the first time.</summary>
    Join,

    /// <summary>Somebody asked for a new password.</summary>
    Reset,
}

/// <summary>A one-time way in.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Person">For whom.</param>
/// <param name="Purpose">What for.</param>
/// <param name="Generation">Rises each time it is sent again: the letter before is worth nothing then.</param>
/// <param name="MadeBy">Who invited; null where somebody asked for it themselves.</param>
/// <param name="MadeAt">When.</param>
/// <param name="EndsAt">From when on it is worth nothing.</param>
/// <param name="UsedAt">When it was used; null while it is not.</param>
/// <param name="WithdrawnAt">When it was taken back; null while it is not.</param>
public sealed record Invitation(
    long Id,
    PersonId Person,
    InvitationPurpose Purpose,
    int Generation,
    PersonId? MadeBy,
    Instant MadeAt,
    Instant EndsAt,
    Instant? UsedAt,
    Instant? WithdrawnAt
)
{
    /// <summary>Whether it opens at that moment.</summary>
    public bool IsOpen(Instant now) => UsedAt is null && WithdrawnAt is null && now < EndsAt;
}

/// <summary>One-time ways in. Found by the hash of their token; the token itself is not stored.</summary>
public sealed class InvitationStore
{
    private const string Columns =
        "select id, person_id as PersonRef, purpose, generation, made_by as MadeBy, made_at as MadeAt, ends_at as EndsAt, used_at as UsedAt, withdrawn_at as WithdrawnAt from invitations";

    private readonly SqliteConnection connection;

    internal InvitationStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Makes one in place of those of the same purpose that are open.</summary>
    /// <param name="person">For whom.</param>
    /// <param name="purpose">What for.</param>
    /// <param name="by">Who invites; null for themselves.</param>
    /// <param name="now">When.</param>
    /// <param name="ends">From when on it is worth nothing.</param>
    /// <param name="hashOf">The hash of its token, by its id and generation.</param>
    public Invitation Add(
        PersonId person,
        InvitationPurpose purpose,
        PersonId? by,
        Instant now,
        Instant ends,
        Func<long, int, byte[]> hashOf
    )
    {
        Withdraw(person, purpose, now);
        var id = connection.ExecuteScalar<long>(
            """
            insert into invitations (person_id, purpose, generation, token_hash, made_by, made_at, ends_at)
            values (@person, @purpose, 1, randomblob(32), @by, @now, @ends) returning id
            """,
            new
            {
                person = person.Value,
                purpose = Stored.Text(purpose),
                by = by?.Value,
                now = now.ToUnixTimeMilliseconds(),
                ends = ends.ToUnixTimeMilliseconds(),
            }
        );
        connection.Execute(
            "update invitations set token_hash = @hash where id = @id",
            new { id, hash = hashOf(id, 1) }
        );
        return Get(id)!;
    }

    /// <summary>An invitation; null where there is none.</summary>
    public Invitation? Get(long id) => Read("where id = @id", new { id }).SingleOrDefault();

    /// <summary>The invitation of a token; null where there is none.</summary>
    public Invitation? Find(byte[] tokenHash) =>
        Read("where token_hash = @tokenHash", new { tokenHash }).SingleOrDefault();

    /// <summary>The newest of somebody, or null.</summary>
    public Invitation? Newest(PersonId person, InvitationPurpose purpose) =>
        Read(
                "where person_id = @person and purpose = @purpose order by id desc limit 1",
                new { person = person.Value, purpose = Stored.Text(purpose) }
            )
            .SingleOrDefault();

    /// <summary>Uses one, once.</summary>
    /// <returns>False where somebody was faster.</returns>
    public bool Use(long id, Instant now) =>
        connection.Execute(
            "update invitations set used_at = @now where id = @id and used_at is null and withdrawn_at is null and ends_at > @now",
            new { id, now = now.ToUnixTimeMilliseconds() }
        ) == 1;

    /// <summary>Takes back what of that purpose is open for somebody.</summary>
    /// <returns>How many they were.</returns>
    public int Withdraw(PersonId person, InvitationPurpose purpose, Instant now) =>
        connection.Execute(
            """
            update invitations set withdrawn_at = @now
            where person_id = @person and purpose = @purpose and used_at is null and withdrawn_at is null
            """,
            new
            {
                person = person.Value,
                purpose = Stored.Text(purpose),
                now = now.ToUnixTimeMilliseconds(),
            }
        );

    private List<Invitation> Read(string where, object values) =>
        [
            .. connection
                .Query<InvitationRow>($"{Columns} {where}", values)
                .Where(row => Enum.TryParse<InvitationPurpose>(row.Purpose, ignoreCase: true, out _))
                .Select(row => new Invitation(
                    row.Id,
                    new PersonId(row.PersonRef),
                    Enum.Parse<InvitationPurpose>(row.Purpose, ignoreCase: true),
                    (int)row.Generation,
                    row.MadeBy is { } by ? new PersonId(by) : null,
                    Stored.At(row.MadeAt),
                    Stored.At(row.EndsAt),
                    row.UsedAt is { } used ? Stored.At(used) : null,
                    row.WithdrawnAt is { } withdrawn ? Stored.At(withdrawn) : null
                )),
        ];

    private sealed record InvitationRow(
        long Id,
        long PersonRef,
        string Purpose,
        long Generation,
        long? MadeBy,
        long MadeAt,
        long EndsAt,
        long? UsedAt,
        long? WithdrawnAt
    );
}
