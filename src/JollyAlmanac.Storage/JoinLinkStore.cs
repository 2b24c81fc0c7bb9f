using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>Join links and what is behind them.</summary>
public sealed class JoinLinkStore
{
    private const string Select =
        """
        select l.id, l.calendar_id as CalendarId, l.name, l.code, l.version,
            (select t.host from join_targets t where t.link_id = l.id order by t.id desc limit 1) as Host
        from join_links l
        """;

    private readonly SqliteConnection connection;

    internal JoinLinkStore(SqliteConnection connection) => this.connection = connection;

    /// <summary>The links of a calendar by name.</summary>
    public IReadOnlyList<JoinLink> Of(CalendarId calendar) =>
        [.. connection.Query<LinkRow>($"{Select} where l.calendar_id = @id order by l.name, l.id", new { id = calendar.Value }).Select(row => row.ToLink())];

    /// <summary>The links of all calendars.</summary>
    public ILookup<CalendarId, JoinLink> All() => connection.Query<LinkRow>(Select).Select(row => row.ToLink()).ToLookup(link => link.Calendar);

    /// <summary>The link of that short address, or null.</summary>
    public JoinLink? Find(JoinCode code) =>
        connection.QuerySingleOrDefault<LinkRow>($"{Select} where l.code = @code", new { code = code.Value })?.ToLink();

    /// <summary>The address that a link leads to now. Read only to lead somebody there.</summary>
    public string TargetOf(JoinLinkId id) => connection.QuerySingle<string>(
        "select address from join_targets where link_id = @id order by id desc limit 1", new { id = id.Value });

    /// <summary>How many addresses the link has had, with the one it has.</summary>
    public int TargetCount(JoinLinkId id) => connection.ExecuteScalar<int>("select count(*) from join_targets where link_id = @id", new { id = id.Value });

    /// <summary>Adds a link with a short address that was never given out.</summary>
    public JoinLink Add(CalendarId calendar, string name, JoinTarget target, PersonId by, Instant now)
    {
        JoinCode code;
        do code = JoinCode.New(name);
        while (Find(code) is not null);
        var id = connection.ExecuteScalar<long>(
            "insert into join_links (calendar_id, name, code, version, made_by, made_at, changed_at) values (@calendar, @name, @code, 1, @by, @at, @at) returning id",
            new { calendar = calendar.Value, name, code = code.Value, by = by.Value, at = now.ToUnixTimeMilliseconds() });
        AddTarget(new JoinLinkId(id), target, by, now);
        return new JoinLink(new JoinLinkId(id), calendar, name, code, target.Address.IdnHost, 1);
    }

    /// <summary>Puts another address behind a link, if it still has the expected version; the old one stays in the history.</summary>
    public bool Replace(JoinLinkId id, string name, JoinTarget? target, int expectedVersion, PersonId by, Instant now)
    {
        var changed = connection.Execute(
            "update join_links set name = @name, version = version + 1, changed_at = @at where id = @id and version = @expectedVersion",
            new { id = id.Value, name, expectedVersion, at = now.ToUnixTimeMilliseconds() });
        if (changed == 1 && target is not null) AddTarget(id, target, by, now);
        return changed == 1;
    }

    private void AddTarget(JoinLinkId id, JoinTarget target, PersonId by, Instant now) => connection.Execute(
        "insert into join_targets (link_id, address, host, set_by, set_at) values (@id, @address, @host, @by, @at)",
        new { id = id.Value, address = target.Address.AbsoluteUri, host = target.Address.IdnHost, by = by.Value, at = now.ToUnixTimeMilliseconds() });

    private sealed record LinkRow(long Id, long CalendarId, string Name, string Code, long Version, string Host)
    {
        public JoinLink ToLink() => new(new JoinLinkId(Id), new Core.Calendars.CalendarId(CalendarId), Name, new JoinCode(Code), Host, (int)Version);
    }
}
