using System.Reflection;
using DbUp;
using DbUp.Engine;
using DbUp.Engine.Output;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.Files;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage;

/// <summary>
/// The one SQLite database of an installation, in its data directory. Gives out readings and writings; both are short.
/// </summary>
public sealed class AlmanacDatabase : IDisposable
{
    private readonly string connectionString;
    private readonly RevisionCache kept = new();
    private readonly Lock watching = new();
    private SqliteConnection? watch;
    private SQLitePCL.sqlite3_stmt? look;

    private AlmanacDatabase(string directory)
    {
        Directory = directory;
        connectionString = new SqliteConnectionStringBuilder
        {
            DataSource = Path.Combine(directory, FileName),
            ForeignKeys = true,
            DefaultTimeout = 10,
        }.ToString();
    }

    /// <summary>The database's file name within the data directory.</summary>
    public const string FileName = "almanac.db";

    /// <summary>The data directory.</summary>
    public string Directory { get; }

    /// <summary>Opens the database of a directory, makes both where they are missing, and brings the tables up to date.</summary>
    /// <exception cref="DataDirectoryException">It cannot be written to, is no database, or comes from a newer almanac.</exception>
    public static AlmanacDatabase Open(string directory)
    {
        try
        {
            PrivateFiles.MakeDirectory(directory);
            PrivateFiles.Touch(Path.Combine(directory, FileName));
            var probe = Path.Combine(directory, $".probe-{Guid.NewGuid():N}");
            File.WriteAllText(probe, "");
            File.Delete(probe);
            var database = new AlmanacDatabase(directory);
            database.Migrate();
            if (database.Read(stores => stores.People.HasUnfound()))
                database.Write(stores => stores.People.WriteWords(), _ => true);
            return database;
        }
        catch (Exception refusal) when (refusal is IOException or UnauthorizedAccessException)
        {
            throw new DataDirectoryException(
                $"The data directory {directory} cannot be written to. Choose another with --data, or change its permissions."
            );
        }
        catch (SqliteException refusal)
        {
            throw new DataDirectoryException(
                $"The database in {directory} cannot be used ({refusal.Message}). Choose another directory with --data."
            );
        }
    }

    /// <summary>Opens the database of a directory as it is, to look at: nothing is made or brought up to date.</summary>
    /// <exception cref="DataDirectoryException">There is none, or it is not of this version.</exception>
    public static AlmanacDatabase OpenToLook(string directory)
    {
        if (!File.Exists(Path.Combine(directory, FileName)))
            throw new DataDirectoryException($"There is no almanac's data in {directory}.");
        var database = new AlmanacDatabase(directory);
        try
        {
            using var connection = database.Connect();
            using var command = connection.CreateCommand();
            command.CommandText = "select ScriptName from SchemaVersions";
            using var reader = command.ExecuteReader();
            var done = new HashSet<string>(StringComparer.Ordinal);
            while (reader.Read())
                done.Add(reader.GetString(0));
            var known = database
                .Upgrade()
                .GetDiscoveredScripts()
                .Select(script => script.Name)
                .ToHashSet(StringComparer.Ordinal);
            return done.SetEquals(known)
                ? database
                : throw new DataDirectoryException(
                    done.IsSubsetOf(known)
                        ? $"The data in {directory} is of an older Jolly Almanac. Serve it once with this one, which brings it up to date."
                        : $"The data in {directory} was written by a newer Jolly Almanac. Use that version."
                );
        }
        catch (SqliteException refusal)
        {
            throw new DataDirectoryException($"The database in {directory} cannot be read ({refusal.Message}).");
        }
    }

    /// <summary>What is broken in the file itself, in its references, and in its JSON, a sentence each.</summary>
    public IReadOnlyList<string> Faults()
    {
        var faults = new List<string>();
        using var connection = Connect();
        void Ask(string sql, Func<SqliteDataReader, string?> fault)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            using var reader = command.ExecuteReader();
            while (reader.Read())
                if (fault(reader) is { } told)
                    faults.Add(told);
        }

        try
        {
            Ask("pragma integrity_check", row =>
                row.GetString(0) is "ok" ? null : $"The database is damaged: {row.GetString(0)}."
            );
            Ask("pragma foreign_key_check", row =>
                $"A row of {row.GetString(0)} refers to one of {row.GetString(2)} that is not there."
            );
            Ask(
                "select id from history where (before is not null and not json_valid(before)) or (after is not null and not json_valid(after))",
                row => $"Line {row.GetInt64(0)} of the history holds what is no JSON."
            );
            Ask("select code from join_links where code not in (select code from join_codes)", row =>
                $"The short address {row.GetString(0)} leads nowhere."
            );
            Ask(
                "select name from join_links where id not in (select link_id from join_targets where series_id is null)",
                row => $"The join link {row.GetString(0)} has no room."
            );
        }
        catch (SqliteException refusal)
        {
            faults.Add($"The database is damaged: {refusal.Message}.");
        }

        return faults;
    }

    /// <summary>Whether this thread is in the middle of a reading or writing: then nothing slow may be waited for.</summary>
    public static bool IsWithin => depth > 0;

    [ThreadStatic]
    private static int depth;

    /// <summary>Reads: one consistent view of the data.</summary>
    public T Read<T>(Func<Stores, T> reading)
    {
        using var connection = Connect();
        using var transaction = connection.BeginTransaction(deferred: true);
        return Within(() => reading(new Stores(connection, kept)));
    }

    /// <summary>Writes: all of it is kept where <paramref name="keep"/> says so of the result, else nothing.</summary>
    public T Write<T>(Func<Stores, T> writing, Predicate<T> keep)
    {
        using var connection = Connect();
        using var transaction = connection.BeginTransaction();
        var result = Within(() => writing(new Stores(connection)));
        if (!keep(result))
            return result;
        transaction.Commit();
        return result;
    }

    /// <summary>
    /// Notes something that nobody waits for, such as that a feed was fetched. Where it cannot be written, as the disk is full or the
    /// database is busy, it is not: reading goes on all the same.
    /// </summary>
    public void Note(Action<Stores> writing)
    {
        try
        {
            Write(
                stores =>
                {
                    writing(stores);
                    return true;
                },
                _ => true
            );
        }
        catch (SqliteException failure) when (CannotWrite(failure)) { }
    }

    /// <summary>Whether a failure is that nothing can be written now: busy, full, read only or failing (SQLite's primary result
    /// codes).</summary>
    public static bool CannotWrite(SqliteException failure) =>
        IsBusy(failure) || failure.SqliteErrorCode is 8 or 10 or 13;

    /// <summary>Whether a failure is that another writing goes on for too long.</summary>
    public static bool IsBusy(SqliteException failure) => failure.SqliteErrorCode is 5 or 6;

    private static T Within<T>(Func<T> work)
    {
        depth++;
        try
        {
            return work();
        }
        finally
        {
            depth--;
        }
    }

    /// <summary>
    /// Another number after each writing that was kept, by this process or another: what was read after it was asked for holds while
    /// it is the same. It touches no file, so that it can be asked on every request. What differs may still stand as it did: see how
    /// the thing itself stands.
    /// </summary>
    public long Epoch()
    {
        lock (watching)
        {
            if (look is null)
            {
                // A connection of its own that never writes: it sees what all others write (SQLite, PRAGMA data_version).
                watch = new SqliteConnection(
                    new SqliteConnectionStringBuilder(connectionString) { Pooling = false }.ToString()
                );
                watch.Open();
                SqliteException.ThrowExceptionForRC(
                    SQLitePCL.raw.sqlite3_prepare_v2(watch.Handle, "pragma data_version", out look),
                    watch.Handle
                );
            }

            // Without a command and a reader around it, as each request asks for this several times.
            var answer = SQLitePCL.raw.sqlite3_step(look);
            if (answer != SQLitePCL.raw.SQLITE_ROW)
                SqliteException.ThrowExceptionForRC(answer, watch!.Handle);
            var epoch = SQLitePCL.raw.sqlite3_column_int64(look, 0);
            SQLitePCL.raw.sqlite3_reset(look);
            return epoch;
        }
    }

    /// <inheritdoc />
    public void Dispose()
    {
        lock (watching)
        {
            look?.Dispose();
            watch?.Dispose();
            (look, watch) = (null, null);
        }

        kept.Dispose();
        // Connections that wait to be used again hold the file open.
        using var last = new SqliteConnection(connectionString);
        SqliteConnection.ClearPool(last);
    }

    private SqliteConnection Connect()
    {
        var connection = new SqliteConnection(connectionString);
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText =
            "pragma journal_mode=wal; pragma synchronous=full; pragma busy_timeout=5000; pragma temp_store=memory;";
        command.ExecuteNonQuery();
        Opened?.Invoke(connection);
        return connection;
    }

    /// <summary>Told of each connection, so that tests see the SQL that really runs.</summary>
    internal Action<SqliteConnection>? Opened { get; set; }

    private void Migrate()
    {
        var upgrade = Upgrade();
        var known = upgrade.GetDiscoveredScripts().Select(script => script.Name).ToHashSet();
        var done = upgrade.GetExecutedScripts();
        if (done.Exists(name => !known.Contains(name)))
            throw new DataDirectoryException(
                $"The data in {Directory} was written by a newer Jolly Almanac. Use that version, or choose another directory with --data."
            );
        if (done.Count == known.Count)
            return;
        if (done.Count > 0)
            BackUp();
        DatabaseUpgradeResult result = upgrade.PerformUpgrade();
        if (!result.Successful)
            throw new DataDirectoryException(
                $"The data in {Directory} could not be brought up to date ({result.Error.Message}). Nothing was changed."
            );
    }

    // Without references: a table that is made anew under its name would take along what refers to it.
    private UpgradeEngine Upgrade() =>
        DeployChanges
            .To.SqliteDatabase(new SqliteConnectionStringBuilder(connectionString) { ForeignKeys = false }.ToString())
            .WithScriptsEmbeddedInAssembly(Assembly.GetExecutingAssembly(), name =>
                name.EndsWith(".sql", StringComparison.Ordinal)
            )
            .WithVariablesDisabled()
            .WithTransactionPerScript()
            .LogTo(new NoUpgradeLog())
            .Build();

    // Before a migration the data is copied beside itself, so that a step forward can be taken back.
    private void BackUp()
    {
        var copies = Path.Combine(Directory, "before-upgrade");
        PrivateFiles.MakeDirectory(copies);
        using var connection = Connect();
        using var command = connection.CreateCommand();
        command.CommandText = "vacuum into $copy";
        command.Parameters.AddWithValue("$copy", Path.Combine(copies, $"almanac-{Guid.CreateVersion7():N}.db"));
        command.ExecuteNonQuery();
        foreach (var copy in System.IO.Directory.EnumerateFiles(copies))
            PrivateFiles.Own(copy);
    }

    private sealed class NoUpgradeLog : IUpgradeLog
    {
        public void LogTrace(string format, params object[] args) { }

        public void LogDebug(string format, params object[] args) { }

        public void LogInformation(string format, params object[] args) { }

        public void LogWarning(string format, params object[] args) { }

        public void LogError(string format, params object[] args) { }

        public void LogError(Exception ex, string format, params object[] args) { }
    }
}
