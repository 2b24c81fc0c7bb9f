using Dapper;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.People;

/// <summary>What is being reviewed before it is taken in: lists of people, and files of sessions.</summary>
public sealed class RosterImportStore
{
    private readonly SqliteConnection connection;

    internal RosterImportStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>A list of people.</summary>
    public const string People = "people";

    /// <summary>Files of the whole school.</summary>
    public const string School = "school";

    /// <summary>A file of sessions.</summary>
    public const string Sessions = "sessions";

    /// <summary>Keeps a list for its review, and forgets those that are too old.</summary>
    /// <param name="kind">What it is.</param>
    /// <param name="by">Who brings it.</param>
    /// <param name="content">JSON.</param>
    /// <param name="now">When.</param>
    /// <param name="oldest">What was made before that is forgotten.</param>
    public long Add(string kind, PersonId by, string content, Instant now, Instant oldest)
    {
        connection.Execute(
            "delete from bring_ins where made_at < @oldest",
            new { oldest = oldest.ToUnixTimeMilliseconds() }
        );
        return connection.ExecuteScalar<long>(
            "insert into bring_ins (kind, made_by, made_at, content) values (@kind, @by, @now, @content) returning id",
            new
            {
                kind,
                by = by.Value,
                now = now.ToUnixTimeMilliseconds(),
                content,
            }
        );
    }

    /// <summary>A list of that person's; null where there is none, or it is too old.</summary>
    public string? Find(string kind, long id, PersonId by, Instant oldest) =>
        connection.QuerySingleOrDefault<string>(
            "select content from bring_ins where id = @id and kind = @kind and made_by = @by and made_at >= @oldest",
            new
            {
                id,
                kind,
                by = by.Value,
                oldest = oldest.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Forgets a list.</summary>
    public void Remove(long id) => connection.Execute("delete from bring_ins where id = @id", new { id });
}
