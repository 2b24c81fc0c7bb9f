using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>A place where somebody is signed in.</summary>
/// <param name="Hash">The hash of what its cookie carries.</param>
/// <param name="MadeAt">When they signed in there; null where an older almanac did not note it.</param>
/// <param name="EndsAt">When it ends by itself.</param>
/// <param name="Browser">What the browser says of itself, as far as it matters.</param>
public sealed record SignedIn(byte[] Hash, Instant? MadeAt, Instant EndsAt, string Browser);

/// <summary>Whom somebody looks as.</summary>
/// <param name="Who">"person 5", "group 4" or "stranger".</param>
/// <param name="From">The slug of the calendar they came from; null for none.</param>
public sealed record PreviewRow(string Who, Slug? From);

/// <summary>Where people are signed in.</summary>
public sealed class SignInStore
{
    private readonly SqliteConnection connection;

    internal SignInStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Keeps a sign-in until it ends, and forgets those that have ended.</summary>
    public void Add(PersonId id, byte[] tokenHash, Instant ends, Instant now, string browser)
    {
        connection.Execute("delete from sign_ins where ends_at <= @now", new { now = now.ToUnixTimeMilliseconds() });
        connection.Execute(
            "insert into sign_ins (token_hash, person_id, ends_at, made_at, browser) values (@tokenHash, @id, @ends, @now, @browser)",
            new
            {
                tokenHash,
                id = id.Value,
                ends = ends.ToUnixTimeMilliseconds(),
                now = now.ToUnixTimeMilliseconds(),
                browser,
            }
        );
    }

    /// <summary>Whether a sign-in of that person is still good, and whom they look as by it.</summary>
    public (bool IsGood, PreviewRow? As) Find(PersonId id, byte[] tokenHash, Instant now)
    {
        var found = connection.QuerySingleOrDefault<(long Ends, string? As, string? From)?>(
            "select ends_at, looks_as, looks_from from sign_ins where token_hash = @tokenHash and person_id = @id and ends_at > @now",
            new
            {
                tokenHash,
                id = id.Value,
                now = now.ToUnixTimeMilliseconds(),
            }
        );
        return found is not { } one
            ? (false, null)
            : (
                true,
                one.As is null
                    ? null
                    : new PreviewRow(one.As, string.IsNullOrEmpty(one.From) ? null : new Slug(one.From))
            );
    }

    /// <summary>Ends a sign-in.</summary>
    public void End(byte[] tokenHash) =>
        connection.Execute("delete from sign_ins where token_hash = @tokenHash", new { tokenHash });

    /// <summary>Ends a sign-in of that person.</summary>
    public bool End(PersonId id, byte[] tokenHash) =>
        connection.Execute(
            "delete from sign_ins where token_hash = @tokenHash and person_id = @id",
            new { tokenHash, id = id.Value }
        ) == 1;

    /// <summary>Ends all sign-ins of a person, but one.</summary>
    /// <returns>How many they were.</returns>
    public int EndAll(PersonId id, byte[]? but) =>
        connection.Execute(
            "delete from sign_ins where person_id = @id and (@but is null or token_hash <> @but)",
            new { id = id.Value, but }
        );

    /// <summary>Where somebody is signed in, the newest first.</summary>
    public IReadOnlyList<SignedIn> Of(PersonId id, Instant now) =>
        [
            .. connection
                .Query<(byte[] Hash, long? MadeAt, long EndsAt, string Browser)>(
                    """
                    select token_hash, made_at, ends_at, browser from sign_ins where person_id = @id and ends_at > @now
                    order by ends_at desc limit 100
                    """,
                    new { id = id.Value, now = now.ToUnixTimeMilliseconds() }
                )
                .Select(row => new SignedIn(
                    row.Hash,
                    row.MadeAt is { } at ? Stored.At(at) : null,
                    Stored.At(row.EndsAt),
                    row.Browser
                )),
        ];

    /// <summary>Notes whom somebody looks as in one sign-in; null for themselves.</summary>
    public bool SetLook(byte[] tokenHash, PreviewRow? looks) =>
        connection.Execute(
            "update sign_ins set looks_as = @as, looks_from = @from where token_hash = @tokenHash",
            new
            {
                tokenHash,
                @as = looks?.Who,
                @from = looks?.From?.Value,
            }
        ) == 1;
}
