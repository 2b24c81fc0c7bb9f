using System.IO.Compression;
using System.Text;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Application.Tests;

/// <summary>Backups, their restoring, and the look through all data.</summary>
public sealed class DataCopyTests : IDisposable
{
    private readonly TestSchool school = new();
    private readonly string place = Directory.CreateTempSubdirectory("almanac-copy-").FullName;

    private string Backup => Path.Combine(place, "school.zip");

    private string Restored => Path.Combine(place, "restored");

    public void Dispose()
    {
        school.Dispose();
        Directory.Delete(place, recursive: true);
    }

    private Series Filled()
    {
        var series = school.Add(
            materials: new MaterialInput(
                [new Upload("sheet.pdf", 9, () => new MemoryStream("%PDF-1.7\n"u8.ToArray()))],
                "Field sheet"
            )
        );
        TestSchool.Done(
            school.Outlets.Make(
                school.Teacher,
                TestSchool.Slug,
                PublicationKind.Feed,
                new PublicationInput("Feed", AccessLevel.Full, true, true, true)
            )
        );
        return series;
    }

    [Fact]
    public void A_backup_comes_back_as_it_was()
    {
        Filled();
        Assert.Empty(DataCheck.Of(school.Directory));
        DataCopy.BackUp(school.Directory, Backup, "2026-10-14T12:41:00Z");
        Assert.Equal("2026-10-14T12:41:00Z", DataCopy.Restore(Backup, Restored, DataCheck.Of).MadeAt);
        Assert.Equal(Dump(school.Directory), Dump(Restored));
        Assert.Equal(Files(school.Directory), Files(Restored));
        if (!OperatingSystem.IsWindows())
        {
            foreach (
                var path in Directory
                    .EnumerateFiles(Restored, "*", SearchOption.AllDirectories)
                    .Where(path =>
                        !path.EndsWith("-shm", StringComparison.Ordinal)
                        && !path.EndsWith("-wal", StringComparison.Ordinal)
                    )
                    .Append(Backup)
            )
                Assert.Equal(
                    (path, UnixFileMode.UserRead | UnixFileMode.UserWrite),
                    (path, File.GetUnixFileMode(path))
                );
        }

        // Nothing is left beside either.
        Assert.Equal(
            ["restored", "school.zip"],
            Directory.EnumerateFileSystemEntries(place).Select(Path.GetFileName).Order(StringComparer.Ordinal)
        );
        Assert.DoesNotContain(Directory.EnumerateFiles(school.Directory), path =>
            path.Contains(".backup-", StringComparison.Ordinal)
        );
    }

    // While acts are written: what comes back is one state between two of them, whole, with all that was done before the backup began.
    [Fact]
    public async Task A_backup_under_load_is_one_consistent_state()
    {
        var series = Filled();
        var lines = 0L;
        using var stop = new CancellationTokenSource();
        var writing = Task.Run(
            () =>
            {
                for (var turn = 0; !stop.IsCancellationRequested; turn++)
                {
                    school.Change(series, "2026-10-26T09:50", new SessionInput("tell", Note: $"Turn {turn}"));
                    Interlocked.Increment(ref lines);
                }
            },
            TestContext.Current.CancellationToken
        );
        Assert.True(SpinWait.SpinUntil(() => Interlocked.Read(ref lines) > 5, TimeSpan.FromSeconds(30)));
        var before = Interlocked.Read(ref lines);
        DataCopy.BackUp(school.Directory, Backup, "now");
        var after = Interlocked.Read(ref lines) + 1;
        Assert.True(SpinWait.SpinUntil(() => Interlocked.Read(ref lines) > after, TimeSpan.FromSeconds(30)));
        await stop.CancelAsync();
        await writing;
        DataCopy.Restore(Backup, Restored, DataCheck.Of);
        // Each act writes a line of history, the change and a version together.
        var state = (
            Lines: Ask(Restored, "select count(*) from history where act = 'ChangeSession'"),
            Version: Ask(Restored, "select version - 1 from series"),
            Note: Ask(Restored, "select 1 + substr(note, 6) from changes")
        );
        Assert.Equal((state.Lines, state.Lines, state.Lines), state);
        Assert.InRange(state.Lines, before, after);
    }

    [Fact]
    public void What_is_no_whole_backup_restores_nothing()
    {
        Filled();
        DataCopy.BackUp(school.Directory, Backup, "now");
        foreach (
            var (what, spoil, told) in new (string, Action<ZipArchive>, string)[]
            {
                (
                    "a file is missing",
                    archive =>
                        archive
                            .Entries.First(entry => entry.FullName.StartsWith("files/", StringComparison.Ordinal))
                            .Delete(),
                    "is missing"
                ),
                ("a file is another", archive => Write(archive, "secret.key", "another"), "is not what it was"),
                ("no manifest", archive => archive.GetEntry("manifest.json")!.Delete(), "has no manifest"),
                ("a manifest that is no JSON", archive => Write(archive, "manifest.json", "{"), "cannot be read"),
                (
                    "a newer form",
                    archive =>
                        Write(
                            archive,
                            "manifest.json",
                            "{\"Form\":2,\"MadeAt\":\"\",\"Entries\":{\"almanac.db\":\"x\"}}"
                        ),
                    "newer"
                ),
                (
                    "a name that leads out",
                    archive =>
                        Write(
                            archive,
                            "manifest.json",
                            "{\"Form\":1,\"MadeAt\":\"\",\"Entries\":{\"almanac.db\":\"x\",\"../out\":\"x\"}}"
                        ),
                    "Nothing was restored"
                ),
                ("more than it says", archive => Write(archive, "more.txt", "x"), "more than its manifest"),
            }
        )
        {
            var copy = Path.Combine(place, "spoiled.zip");
            File.Copy(Backup, copy, overwrite: true);
            using (var archive = ZipFile.Open(copy, ZipArchiveMode.Update))
                spoil(archive);
            var refusal = Assert.Throws<DataCopyException>(() => DataCopy.Restore(copy, Restored, DataCheck.Of));
            Assert.True(refusal.Message.Contains(told, StringComparison.Ordinal), $"{what}: {refusal.Message}");
            Assert.False(Directory.Exists(Restored), what);
            Assert.False(File.Exists(Path.Combine(place, "out")), what);
        }

        File.WriteAllText(Path.Combine(place, "text"), "no archive");
        Assert.Throws<DataCopyException>(() => DataCopy.Restore(Path.Combine(place, "text"), Restored, DataCheck.Of));
        Assert.Throws<DataCopyException>(() => DataCopy.Restore(Path.Combine(place, "none"), Restored, DataCheck.Of));
        // Nothing is written over.
        Assert.Contains(
            "there already",
            Assert.Throws<DataCopyException>(() => DataCopy.BackUp(school.Directory, Backup, "now")).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "not empty",
            Assert.Throws<DataCopyException>(() => DataCopy.Restore(Backup, place, DataCheck.Of)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "no almanac",
            Assert.Throws<DataCopyException>(() => DataCopy.BackUp(place, Path.Combine(place, "x"), "now")).Message,
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData("update series set pattern = '{}'", "Series Tidepool Biology 9A cannot be read")]
    [InlineData("update materials set content_hash = 'ab' || substr(content_hash, 3)", "is missing")]
    [InlineData("update materials set size = 3", "another size")]
    [InlineData("update outlets set generation = 7", "does not belong")]
    [InlineData("delete from join_codes", "leads nowhere")]
    [InlineData("update join_links set calendar_id = 99", "refers to one")]
    [InlineData("update history set after = '{' where id = (select max(id) from history)", "no JSON")]
    public void What_is_not_right_is_told(string sql, string told)
    {
        Filled();
        using (
            var connection = new SqliteConnection(
                $"Data Source={Path.Combine(school.Directory, AlmanacDatabase.FileName)};Foreign Keys=False"
            )
        )
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "pragma ignore_check_constraints = 1; " + sql;
            command.ExecuteNonQuery();
        }

        Assert.Contains(DataCheck.Of(school.Directory), problem => problem.Contains(told, StringComparison.Ordinal));
    }

    [Fact]
    public void A_lost_key_and_a_spoiled_file_are_told()
    {
        Filled();
        File.Delete(Path.Combine(school.Directory, Secrets.FileName));
        var file = Directory
            .EnumerateFiles(Path.Combine(school.Directory, "files"), "*", SearchOption.AllDirectories)
            .Single();
        File.WriteAllBytes(file, "%PDF-1.6\n"u8.ToArray());
        Assert.Equal(2, DataCheck.Of(school.Directory).Count);
        Assert.False(File.Exists(Path.Combine(school.Directory, Secrets.FileName)));
        Assert.Throws<DataDirectoryException>(() => DataCheck.Of(place));
    }

    private static void Write(ZipArchive archive, string name, string text)
    {
        archive.GetEntry(name)?.Delete();
        using var entry = archive.CreateEntry(name).Open();
        entry.Write(Encoding.UTF8.GetBytes(text));
    }

    private static string Files(string directory) =>
        string.Join(
            '\n',
            Directory
                .EnumerateFiles(directory, "*", SearchOption.AllDirectories)
                .Where(path => !Path.GetFileName(path).StartsWith(AlmanacDatabase.FileName, StringComparison.Ordinal))
                .Select(path =>
                    $"{Path.GetRelativePath(directory, path)} {Convert.ToHexString(File.ReadAllBytes(path))}"
                )
                .Order(StringComparer.Ordinal)
        );

    private static long Ask(string directory, string sql)
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(directory, AlmanacDatabase.FileName)};Pooling=False"
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return (long)command.ExecuteScalar()!;
    }

    // Every row of every table.
    private static string Dump(string directory)
    {
        var text = new StringBuilder();
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(directory, AlmanacDatabase.FileName)};Pooling=False"
        );
        connection.Open();
        List<string> Column(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            using var reader = command.ExecuteReader();
            var rows = new List<string>();
            while (reader.Read())
                rows.Add(
                    string.Join(
                        '|',
                        Enumerable
                            .Range(0, reader.FieldCount)
                            .Select(at =>
                                reader.IsDBNull(at) ? "null"
                                : reader.GetValue(at) is byte[] bytes ? Convert.ToHexString(bytes)
                                : reader.GetValue(at).ToString()
                            )
                    )
                );
            return rows;
        }

        foreach (var table in Column("select name from sqlite_master where type = 'table' order by name"))
            text.AppendLine(table).AppendJoin('\n', Column($"select * from {table}")).AppendLine();
        return text.ToString();
    }
}
