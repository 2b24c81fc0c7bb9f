using System.Net;
using JollyAlmanac.Storage;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// A row that cannot be read takes only itself with it: each column that is read as more than text is spoiled in turn, and every page
/// opened.
/// </summary>
public sealed class UnreadableTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static readonly string[] Json =
    [
        "{}",
        "[]",
        "null",
        "7",
        "\"x\"",
        "{\"repeat\":{\"kind\":\"rule\",\"rule\":\"FREQ=DAILY,WEEKLY\"}}",
        "not json",
        "",
    ];

    private static readonly string[] SmallJson = ["{}", "null", "7", "not json"];

    private static readonly string[] Words = ["nonsense", "Busy,Full", "-1"];

    private static readonly string[] Days = ["yesterday", "9999-99-99", "-9998-01-01"];

    // Table, column, which row, and what is written there.
    private static readonly (string Table, string Column, string Where, string[] Values)[] Columns =
    [
        ("series", "pattern", "id = 1", Json),
        ("series", "pattern", "calendar_id = (select id from calendars where slug = 'tidepool-biology-9a')", Json),
        ("changes", "standing", "1", Words),
        ("changes", "time", "1", ["", "nonsense", "25:00-26:00", "{}"]),
        ("changes", "day", "1", Days),
        ("changes", "original", "1", ["", "nonsense", "9999-99-99T00:00"]),
        ("changes", "entry", "1", ["nonsense", "-5 -5", "1 2 3", ""]),
        ("join_links", "entry", "code = 'tidepool-7k'", ["", "nonsense", "-5 -5", "1 2 3", "99999999999 1"]),
        ("join_links", "audience", "code = 'tidepool-7k'", Words),
        ("join_links", "reach", "code = 'tidepool-7k'", ["nonsense", "until", "until x", "days -1"]),
        ("join_links", "hand", "code = 'tidepool-7k'", SmallJson),
        ("join_links", "ticked", "code = 'tidepool-7k'", SmallJson),
        ("join_links", "only_for", "code = 'tidepool-7k'", Words),
        ("series", "only_for", "calendar_id = (select id from calendars where slug = 'tidepool-biology-9a')", Words),
        ("materials", "only_for", "1", Words),
        ("materials", "due", "due is not null", [.. Days, "session 3", "2026-10-16 25:00"]),
        ("free_links", "last", "1", Days),
        ("free_links", "day_to", "1", Words),
        ("join_targets", "dial_in", "1", SmallJson),
        ("join_targets", "address", "link_id = 3", ["", "nonsense", "javascript:alert(1)"]),
        ("join_targets", "original", "1", ["nonsense"]),
        ("outlets", "kind", "1", Words),
        ("outlets", "level", "1", Words),
        ("outlets", "sites", "1", ["nonsense", "http://", "\u0000"]),
        ("outlets", "options", "1", [.. SmallJson, "{\"shape\":\"nonsense\"}", "{\"reminder\":-5}", "{\"zone\":null}"]),
        ("outlets", "scope", "1", Words),
        ("outlets", "others", "1", ["nonsense", "99999999999999999999"]),
        ("notices", "first_day", "1", Days),
        ("notices", "session", "1", ["nonsense", ""]),
        ("notices", "only_for", "1", Words),
        ("fetches", "status", "1", ["-1"]),
        ("grants", "level", "grantee = 'anyone'", Words),
        ("grants", "grantee", "grantee = 'anyone'", Words),
        ("grants", "until", "until is not null", Days),
        ("access_requests", "level", "1", Words),
        ("letters", "kind", "1", Words),
        ("invitations", "purpose", "1", Words),
        ("absences", "first", "1", Days),
        ("absences", "last", "1", ["yesterday"]),
        ("people", "role", "email like 'lucette%'", Words),
        ("groups", "kind", "1", Words),
        ("calendars", "kind", "slug = 'french-8'", Words),
        ("calendars", "mark_colour", "slug = 'french-8'", Words),
        ("calendars", "mark_shape", "slug = 'french-8'", Words),
        ("calendars", "zone", "slug = 'french-8'", ["", "Nowhere/Land"]),
        ("materials", "audience", "1", Words),
        ("materials", "address", "address is not null", ["nonsense", "javascript:alert(1)"]),
        ("materials", "session_start", "session_start is not null", ["nonsense", ""]),
        ("terms", "first_day", "id = 2", Days),
        ("terms", "last_day", "id = 2", Days),
        ("no_class_days", "kind", "1", Words),
        ("no_class_days", "first_day", "id = 1", Days),
        ("bell_periods", "starts", "schedule_id = 1 and position = 1", ["", "25:99", "nonsense"]),
        ("shortened_days", "day", "1", Days),
        ("history", "subject", "1", Words),
        ("history", "before", "before is not null", SmallJson),
        ("history", "after", "after is not null", SmallJson),
        ("school", "zone", "1", ["Nowhere/Land", ""]),
        ("school", "cycle_start", "1", Days),
    ];

    private static readonly string[] Richest =
    [
        "/today",
        "/calendars",
        "/week",
        "/my-times",
        "/join-links",
        "/school-time",
        $"/calendars/{DemoServer.Class}",
        $"/calendars/{DemoServer.Class}/history",
        $"/calendars/{DemoServer.Class}/publishing",
        $"/calendars/{DemoServer.Class}/sharing",
        "/people",
        "/mail",
        "/calendars/french-8",
    ];

    public static TheoryData<int> All => [.. Enumerable.Range(0, Columns.Length)];

    [Theory]
    [MemberData(nameof(All))]
    public async Task One_spoiled_column_takes_no_page_with_it(int at)
    {
        server.Set(14, 9, 45);
        var (table, column, where, values) = Columns[at];
        using var coordinator = await server.SignedIn(DemoServer.Coordinator);
        using var student = await server.SignedIn(DemoServer.Student);
        using var stranger = server.Client();
        foreach (var value in values)
        {
            var kept = Spoil(table, column, where, value);
            try
            {
                // Every page with the first value; with the others, those that read most.
                foreach (var path in value == values[0] ? GateTests.Pages.Append("/set-up") : Richest)
                    await Opens(coordinator, path, $"{table}.{column} = “{value}”");
                foreach (
                    var path in value == values[0]
                        ? ["/today", "/calendars", "/week", $"/c/{DemoServer.Class}"]
                        : new[] { "/today" }
                )
                    await Opens(student, path, $"{table}.{column} = “{value}”, student");
                foreach (
                    var path in new[]
                    {
                        $"/c/{DemoServer.OpenClass}",
                        "/c/french-8",
                        "/c/net-mending",
                        "/in/tidepool-7k?look=1",
                        "/in/marchbanks?look=1",
                        server.Address("feed"),
                        server.Address("embed"),
                    }
                )
                    await Opens(stranger, path, $"{table}.{column} = “{value}”, stranger");
                // What stands beside it goes on: another class, its page and its own calendar.
                if (table is not ("school" or "terms" or "no_class_days" or "bell_periods" or "shortened_days"))
                {
                    using var beside = await stranger.GetAsync("/c/net-mending", Stop);
                    if (!where.StartsWith("grantee", StringComparison.Ordinal))
                        Assert.Equal(
                            ($"{table}.{column} = “{value}”", HttpStatusCode.OK),
                            ($"{table}.{column} = “{value}”", beside.StatusCode)
                        );
                    using var list = await coordinator.GetAsync("/calendars/coastal-weather-10", Stop);
                    Assert.Equal(HttpStatusCode.OK, list.StatusCode);
                }
            }
            finally
            {
                Restore(table, column, kept);
            }
        }
    }

    // Bytes of JSON columns flipped at random, with a fixed seed.
    [Fact]
    public async Task Flipped_bytes_take_no_page_with_them()
    {
        using var coordinator = await server.SignedIn(DemoServer.Coordinator);
        var random = new Random(20261014);
        foreach (
            var (table, column) in new[]
            {
                ("series", "pattern"),
                ("join_links", "ticked"),
                ("join_targets", "dial_in"),
                ("history", "after"),
            }
        )
            for (var turn = 0; turn < 12; turn++)
            {
                var kept = Spoil(table, column, $"{column} is not null and length({column}) > 2", null, text =>
                {
                    var bytes = System.Text.Encoding.UTF8.GetBytes(text);
                    bytes[random.Next(bytes.Length)] ^= (byte)(1 << random.Next(7));
                    return System.Text.Encoding.UTF8.GetString(bytes);
                });
                try
                {
                    foreach (
                        var path in new[]
                        {
                            "/today",
                            "/calendars",
                            "/week",
                            "/join-links",
                            $"/calendars/{DemoServer.Class}",
                            $"/calendars/{DemoServer.Class}/history",
                            $"/c/{DemoServer.Class}",
                        }
                    )
                        await Opens(coordinator, path, $"{table}.{column}, turn {turn}");
                }
                finally
                {
                    Restore(table, column, kept);
                }
            }
    }

    [Fact]
    public async Task A_series_that_cannot_be_read_is_told_with_a_remedy_and_can_be_taken_off()
    {
        using var teacher = await server.SignedIn(DemoServer.Teacher);
        var kept = Spoil(
            "series",
            "pattern",
            "calendar_id = (select id from calendars where slug = 'coastal-weather-10')",
            "{\"repeat\":{\"kind\":\"rule\",\"rule\":\"FREQ=DAILY,WEEKLY\"}}"
        );
        var sheet = await teacher.GetStringAsync("/calendars/coastal-weather-10", Stop);
        Assert.Contains("cannot be read", sheet, StringComparison.Ordinal);
        Assert.Contains("Remove", sheet, StringComparison.Ordinal);
        var form = System.Text.RegularExpressions.Regex.Match(
            sheet,
            "action=\"(/calendars/coastal-weather-10/series/\\d+\\?handler=TakeOff)\"[^>]*>.*?name=\"version\" value=\"(\\d+)\"",
            System.Text.RegularExpressions.RegexOptions.Singleline
        );
        using var off = await DemoServer.Post(
            teacher,
            "/calendars/coastal-weather-10",
            new() { ["version"] = form.Groups[2].Value },
            form.Groups[1].Value
        );
        Assert.Equal(HttpStatusCode.Redirect, off.StatusCode);
        var after = await teacher.GetStringAsync("/calendars/coastal-weather-10", Stop);
        Assert.DoesNotContain(
            "cannot be read",
            after[..after.IndexOf("Last changes", StringComparison.Ordinal)],
            StringComparison.Ordinal
        );
        Restore("series", "pattern", kept);
        using var student = await server.SignedIn(DemoServer.Student);
        Assert.DoesNotContain(
            "cannot be read",
            await student.GetStringAsync($"/c/{DemoServer.Class}", Stop),
            StringComparison.Ordinal
        );
    }

    private static async Task Opens(HttpClient client, string path, string what)
    {
        using var answer = await client.GetAsync(path, Stop);
        if ((int)answer.StatusCode >= 500)
            Assert.Fail($"{path} answers {(int)answer.StatusCode} with {what}");
        Assert.NotEqual(
            0,
            (await answer.Content.ReadAsByteArrayAsync(Stop)).Length + (answer.Headers.Location is null ? 0 : 1)
        );
    }

    // Writes past the checks, as a hand in the database or a newer almanac would; the server sees it by itself.
    private (string Row, string? Value) Spoil(
        string table,
        string column,
        string where,
        string? value,
        Func<string, string>? change = null
    )
    {
        var key = KeyOf(table);
        using var connection = Open();
        using var find = connection.CreateCommand();
        find.CommandText = $"select {key} as row, {column} from {table} where {where} order by {key} limit 1";
        using var reader = find.ExecuteReader();
        Assert.True(reader.Read(), $"{table} has no such row");
        var (row, old) = (reader.GetValue(0).ToString()!, reader.IsDBNull(1) ? null : reader.GetString(1));
        reader.Close();
        var written = change is null ? value! : change(old!);
        Execute(connection, $"update {table} set {column} = @value where {key} = @row", written, row);
        // A spoiled key is another row from then on.
        return (
            key.Contains(column, StringComparison.Ordinal) && key != "id" ? row.Split(' ')[0] + " " + written : row,
            old
        );
    }

    private static string KeyOf(string table) =>
        table switch
        {
            "changes" => "series_id || ' ' || original",
            "bell_periods" => "schedule_id || ' ' || position",
            "shortened_days" => "schedule_id || ' ' || day",
            _ => "id",
        };

    private void Restore(string table, string column, (string Row, string? Value) kept)
    {
        var key = KeyOf(table);
        using var connection = Open();
        Execute(connection, $"update {table} set {column} = @value where {key} = @row", kept.Value, kept.Row);
    }

    private static void Execute(SqliteConnection connection, string sql, string? value, string row)
    {
        using var write = connection.CreateCommand();
        write.CommandText = sql;
        write.Parameters.AddWithValue("@value", (object?)value ?? DBNull.Value);
        if (long.TryParse(row, System.Globalization.NumberStyles.None, null, out var id))
            write.Parameters.AddWithValue("@row", id);
        else
            write.Parameters.AddWithValue("@row", row);
        Assert.Equal((sql, row, 1), (sql, row, write.ExecuteNonQuery()));
    }

    private SqliteConnection Open()
    {
        var file = Path.Combine(server.Directory, AlmanacDatabase.FileName);
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder { DataSource = file, Pooling = false }.ToString()
        );
        connection.Open();
        using var checks = connection.CreateCommand();
        checks.CommandText = "pragma ignore_check_constraints = 1; pragma foreign_keys = 0; pragma busy_timeout = 5000";
        checks.ExecuteNonQuery();
        return connection;
    }
}
