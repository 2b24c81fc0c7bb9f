using Dapper;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Publishing;

/// <summary>People's own feeds.</summary>
public sealed class OwnFeedStore
{
    private const string Columns =
        "select person_id as Person, generation, options, version, last_fetched_at as LastFetchedAt from own_feeds";

    private readonly SqliteConnection connection;

    internal OwnFeedStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>Somebody's; null where they have none.</summary>
    public OwnFeed? Of(PersonId person) => Query("where person_id = @id", new { id = person.Value });

    /// <summary>The one whose token hashes to this; null for none.</summary>
    public OwnFeed? Find(byte[] tokenHash) => Query("where token_hash = @tokenHash", new { tokenHash });

    /// <summary>Makes it, or changes it, where it still has the version; 0 for one that is to be new.</summary>
    public bool Set(OwnFeed feed, byte[] tokenHash, int expectedVersion, Instant now) =>
        connection.Execute(
            expectedVersion == 0
                ? """
                insert into own_feeds (person_id, generation, token_hash, options, version, changed_at)
                    values (@person, @generation, @tokenHash, @options, 1, @at) on conflict do nothing
                """
                : """
                update own_feeds set generation = @generation, token_hash = @tokenHash, options = @options, version = version + 1,
                    changed_at = @at, last_fetched_at = iif(generation = @generation, last_fetched_at, null)
                where person_id = @person and version = @expectedVersion
                """,
            new
            {
                person = feed.Person.Value,
                generation = feed.Generation,
                tokenHash,
                options = OptionsText.Of(feed.Options),
                expectedVersion,
                at = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Ends it, where it still has the version.</summary>
    public bool Remove(PersonId person, int expectedVersion) =>
        connection.Execute(
            "delete from own_feeds where person_id = @id and version = @expectedVersion",
            new { id = person.Value, expectedVersion }
        ) == 1;

    /// <summary>Notes that a reader asked for it.</summary>
    public void NoteFetch(PersonId person, Instant now) =>
        connection.Execute(
            "update own_feeds set last_fetched_at = @at where person_id = @id",
            new { id = person.Value, at = now.ToUnixTimeMilliseconds() }
        );

    // One whose options cannot be read shows all as usual: it is for its own person alone.
    private OwnFeed? Query(string where, object values) =>
        connection.QuerySingleOrDefault<Row>($"{Columns} {where}", values) is { } row
            ? new OwnFeed(
                new PersonId(row.Person),
                (int)row.Generation,
                Options(row.Options),
                (int)row.Version,
                row.LastFetchedAt is { } at ? Stored.At(at) : null
            )
            : null;

    private static PublicationOptions Options(string text)
    {
        try
        {
            return OptionsText.Parse(text);
        }
        catch (FormatException)
        {
            return new PublicationOptions();
        }
    }

    private sealed record Row(long Person, long Generation, string Options, long Version, long? LastFetchedAt);
}
