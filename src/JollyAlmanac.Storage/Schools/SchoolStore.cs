using System.Collections.Immutable;
using Dapper;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.JoinLinks;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Schools;

/// <summary>The school, its terms, no-class days, bells and cycle.</summary>
public sealed class SchoolStore
{
    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    private readonly CachedReads cached;

    internal SchoolStore(SqliteConnection connection, RowReader rows, CachedReads cached) =>
        (this.connection, this.rows, this.cached) = (connection, rows, cached);

    /// <summary>How the school stands: rises with each change of its time. 0 before the first run.</summary>
    public long StateVersion() => connection.ExecuteScalar<long?>("select standing from school") ?? 0;

    /// <summary>The school, or null before the first run is done. The same object for as long as it stands the same.</summary>
    public School? Find()
    {
        if (StateVersion() is not (> 0 and var standing))
            return null;
        return cached.GetOrCreate("school", standing, Read, one => one.Time.NoClassDays.Length + 50);
    }

    /// <summary>How the school has it unless somebody says otherwise. What cannot be read is the closed way.</summary>
    public SchoolDefaults Defaults()
    {
        var begins = Begins("school", null)!;
        var row = connection.QuerySingle<(long? AttendanceDays, long RecordingsWait, long? PasscodeDays)>(
            "select attendance_days, recordings_wait, passcode_days from school"
        );
        return new SchoolDefaults(
            begins.NewIsOpenTo,
            begins.CoordinatorsManage,
            begins.ShowsList,
            (int?)row.AttendanceDays
        )
        {
            RecordingsWait = row.RecordingsWait != 0,
            LinkEntry = begins.LinkEntry,
            LinkAudience = begins.LinkAudience,
            FeedReminder = begins.FeedReminder,
            PasscodeDays = (int?)row.PasscodeDays,
        };
    }

    /// <summary>How the classes of a department begin; null where they begin as at the school.</summary>
    public CalendarDefaults? DefaultsOf(CalendarId department) => Begins("department_defaults", department);

    /// <summary>How a calendar of a department begins: as the department has it, else as the school.</summary>
    /// <param name="department">The department; null for none.</param>
    public CalendarDefaults DefaultsFor(CalendarId? department) =>
        (department is { } id ? DefaultsOf(id) : null) ?? Defaults();

    /// <summary>How what is made on a calendar begins; on a department's own calendar as on its classes.</summary>
    public CalendarDefaults DefaultsOn(Calendar calendar) =>
        DefaultsFor(calendar.Kind == CalendarKind.Department ? calendar.Id : calendar.Department);

    private CalendarDefaults? Begins(string table, CalendarId? department)
    {
        if (
            connection.QuerySingleOrDefault<DefaultsRow>(
                $"""
                select new_open_to as OpenTo, new_for_coordinators as ForCoordinators, new_shows_list as ShowsList,
                    new_link_entry as LinkEntry, new_link_audience as LinkAudience, new_feed_reminder as FeedReminder
                from {table} {(department is null ? "" : "where calendar_id = @department")}
                """,
                new { department = department?.Value }
            )
            is not { } row
        )
            return null;
        return new CalendarDefaults(
            row.OpenTo switch
            {
                "anyone" => new Grantee.Anyone(),
                "everyone" => new Grantee.Everyone(),
                _ => null,
            },
            row.ForCoordinators == 1,
            row.ShowsList == 1
        )
        {
            // What cannot be read is as usual, and lets in no more than the calendar does.
            LinkEntry = rows.Or(
                () => DoorText.ReadEntry(row.LinkEntry),
                EntryRule.Usual,
                () => (UnreadableKind.SchoolDefaults, 0, department, "how join links begin")
            ),
            LinkAudience = row.LinkAudience is { } audience
                ? rows.Or<EntryAudience?>(
                    () => Stored.As<EntryAudience>(audience),
                    null,
                    () => (UnreadableKind.SchoolDefaults, 0, department, "how join links begin")
                )
                : null,
            FeedReminder = (int?)row.FeedReminder,
        };
    }

    private sealed record DefaultsRow(
        string OpenTo,
        long ForCoordinators,
        long ShowsList,
        string LinkEntry,
        string? LinkAudience,
        long? FeedReminder
    );

    /// <summary>Sets how the school has it.</summary>
    public void Set(SchoolDefaults schoolDefaults)
    {
        connection.Execute(
            """
            update school set new_open_to = @open, new_for_coordinators = @manage, new_shows_list = @shows,
                new_link_entry = @entry, new_link_audience = @audience, new_feed_reminder = @reminder
            """,
            Values(schoolDefaults, null)
        );
        connection.Execute(
            "update school set attendance_days = @days, recordings_wait = @wait, passcode_days = @passcodes",
            new
            {
                days = schoolDefaults.AttendanceDays,
                wait = schoolDefaults.RecordingsWait,
                passcodes = schoolDefaults.PasscodeDays,
            }
        );
    }

    /// <summary>Sets how the classes of a department begin; null for as at the school.</summary>
    public void SetDefaultsOf(CalendarId department, CalendarDefaults? defaults)
    {
        connection.Execute("delete from department_defaults where calendar_id = @id", new { id = department.Value });
        if (defaults is not null)
            connection.Execute(
                """
                insert into department_defaults (calendar_id, new_open_to, new_for_coordinators, new_shows_list, new_link_entry,
                    new_link_audience, new_feed_reminder)
                values (@id, @open, @manage, @shows, @entry, @audience, @reminder)
                """,
                Values(defaults, department)
            );
    }

    private static object Values(CalendarDefaults defaults, CalendarId? department) =>
        new
        {
            id = department?.Value,
            open = defaults.NewIsOpenTo switch
            {
                Grantee.Anyone => "anyone",
                Grantee.Everyone => "everyone",
                _ => "named",
            },
            manage = defaults.CoordinatorsManage,
            shows = defaults.ShowsList,
            entry = DoorText.Write(defaults.LinkEntry),
            audience = defaults.LinkAudience is { } who ? Stored.Text(who) : null,
            reminder = defaults.FeedReminder,
        };

    private School Read()
    {
        var row = connection.QuerySingle<SchoolRow>(
            "select name, zone, first_day_of_week as FirstDayOfWeek, cycle_start as CycleStart, revision, changed_at as ChangedAt, month_first as MonthFirst, twelve_hours as TwelveHours, help, passcode_days as PasscodeDays, front_page as FrontPage, listed from school"
        );
        Term? before = null;
        // One that overlaps the one before it cannot be laid out in weeks.
        Term Ordered(Term term) =>
            before is { } earlier && term.First <= earlier.Last
                ? throw new FormatException($"it begins before the {earlier.Name} is over")
            : Period.DaysBetween(term.First, term.Last) is < 0 or > 400
                ? throw new FormatException("it has more than 400 days, or none")
            : before = term;
        var terms = connection
            .Query<(long Id, string Year, string Name, string First, string Last)>(
                "select id, year, name, first_day, last_day from terms order by first_day"
            )
            .Select(term =>
                rows.Or<Term?>(
                    () =>
                        Ordered(
                            new Term(
                                new TermId(term.Id),
                                term.Year,
                                term.Name,
                                Stored.Day(term.First),
                                Stored.Day(term.Last)
                            )
                        ),
                    null,
                    () => (UnreadableKind.Term, term.Id, null, term.Name)
                )
            )
            .OfType<Term>()
            .ToList();
        var noClass = connection
            .Query<(string First, string Last, string Name, string Kind)>(
                "select first_day, last_day, name, kind from no_class_days order by first_day, id"
            )
            .Select(day =>
                rows.Or<NoClassDay?>(
                    () =>
                        new NoClassDay(
                            Stored.Day(day.First),
                            Stored.Day(day.Last),
                            day.Name,
                            rows.Or(
                                () => Stored.As<NoClassKind>(day.Kind),
                                NoClassKind.Holiday,
                                () => (UnreadableKind.NoClassDay, 0, null, day.Name)
                            )
                        ),
                    null,
                    () => (UnreadableKind.NoClassDay, 0, null, day.Name)
                )
            )
            .OfType<NoClassDay>();
        var periods = connection
            .Query<(long Schedule, string Name, string Starts, string Ends)>(
                "select schedule_id, name, starts, ends from bell_periods order by schedule_id, position"
            )
            .Select(period =>
                (
                    period.Schedule,
                    Read: rows.Or<BellPeriod?>(
                        () => new BellPeriod(period.Name, Stored.Time(period.Starts), Stored.Time(period.Ends)),
                        null,
                        () => (UnreadableKind.Bells, period.Schedule, null, $"period {period.Name}")
                    )
                )
            )
            .Where(period => period.Read is not null)
            .ToLookup(period => period.Schedule, period => period.Read!);
        var schedules = connection
            .Query<(long Id, string Name, long IsRegular)>(
                "select id, name, is_regular from bell_schedules order by id"
            )
            .AsList();
        BellSchedule Schedule((long Id, string Name, long IsRegular) one) => new(one.Name, [.. periods[one.Id]]);
        var bells = schedules.Where(one => one.IsRegular == 1).Select(Schedule).FirstOrDefault() ?? BellSchedule.None;
        var shortened = connection
            .Query<(string Day, string Bells)>(
                "select d.day, s.name from shortened_days d join bell_schedules s on s.id = d.schedule_id order by d.day"
            )
            .Select(day =>
                rows.Or<ShortenedDay?>(
                    () => new ShortenedDay(Stored.Day(day.Day), day.Bells),
                    null,
                    () => (UnreadableKind.ShortenedDay, 0, null, day.Day)
                )
            )
            .OfType<ShortenedDay>();
        var names = connection.Query<string>("select name from cycle_days order by position").ToImmutableArray();
        var cycle =
            row.CycleStart is null || names.IsEmpty
                ? null
                : rows.Or<DayCycle?>(
                    () => new DayCycle(names, Stored.Day(row.CycleStart)),
                    null,
                    () => (UnreadableKind.Term, 0, null, "the day cycle")
                );
        var zone = rows.Or(
            () => Stored.Zone(row.Zone),
            DateTimeZone.Utc,
            () => (UnreadableKind.Term, 0, null, $"the zone of {row.Name}, so that all times are in UTC")
        );
        var time = new SchoolTime(
            zone,
            (IsoDayOfWeek)row.FirstDayOfWeek,
            terms,
            noClass,
            bells,
            cycle,
            schedules.Where(one => one.IsRegular == 0).Select(Schedule),
            shortened
        )
        {
            MonthFirst = row.MonthFirst == 1,
        };
        return new School(row.Name, time, (int)row.Revision, Stored.At(row.ChangedAt))
        {
            TwelveHours = row.TwelveHours == 1,
            Help = row.Help,
            PasscodeDays = (int?)row.PasscodeDays,
            HasFrontPage = row.FrontPage == 1,
            IsListed = row.Listed == 1,
        };
    }

    /// <summary>The school's revision and when it last rose, without reading all of it.</summary>
    public (int Revision, Instant ChangedAt) Revision()
    {
        var (revision, changedAt) = connection.QuerySingleOrDefault<(long, long)>(
            "select revision, changed_at from school"
        );
        return ((int)revision, Stored.At(changedAt));
    }

    /// <summary>Puts the one school in.</summary>
    public void Add(string name, string zone, IsoDayOfWeek firstDayOfWeek, Instant now) =>
        connection.Execute(
            "insert into school (id, name, zone, first_day_of_week, made_at, changed_at) values (1, @name, @zone, @first, @at, @at)",
            new
            {
                name,
                zone,
                first = (int)firstDayOfWeek,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>How many calendars and series are there whose times are of a zone.</summary>
    public (int Calendars, int Series) InZone(string zone) =>
        connection.QuerySingle<(int, int)>(
            """
            select (select count(*) from calendars where zone = @zone and deleted_at is null),
                (select count(*) from series where json_extract(pattern, '$.zone') = @zone and deleted_at is null)
            """,
            new { zone }
        );

    /// <summary>Sets its name, its zone, the day its weeks begin on, how it writes days and times, its help, and whether it has a front page; its revision rises.</summary>
    public void Set(
        string name,
        string zone,
        IsoDayOfWeek firstDayOfWeek,
        bool monthFirst,
        bool twelveHours,
        string help,
        bool frontPage,
        bool listed,
        Instant now
    ) =>
        connection.Execute(
            """
            update school set name = @name, zone = @zone, first_day_of_week = @first, month_first = @monthFirst,
                twelve_hours = @twelveHours, help = @help, front_page = @frontPage, listed = @listed, revision = revision + 1, changed_at = @at
            """,
            new
            {
                name,
                zone,
                first = (int)firstDayOfWeek,
                monthFirst,
                twelveHours,
                help,
                frontPage,
                listed,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Has the calendars and series of one zone in another, each with its wall-clock times.</summary>
    public void Move(string from, string to, Instant now) =>
        connection.Execute(
            """
            update calendars set revision = revision + 1, changed_at = @at where zone = @from
                or id in (select calendar_id from series where json_extract(pattern, '$.zone') = @from);
            update calendars set zone = @to, version = version + 1 where zone = @from;
            update series set pattern = json_set(pattern, '$.zone', @to), version = version + 1, changed_at = @at
                where json_extract(pattern, '$.zone') = @from;
            """,
            new
            {
                from,
                to,
                at = now.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>Adds a term.</summary>
    public TermId AddTerm(string year, string name, LocalDate first, LocalDate last) =>
        new(
            connection.ExecuteScalar<long>(
                "insert into terms (year, name, first_day, last_day) values (@year, @name, @first, @last) returning id",
                new
                {
                    year,
                    name,
                    first = Stored.Text(first),
                    last = Stored.Text(last),
                }
            )
        );

    /// <summary>The terms that series run with.</summary>
    public IReadOnlySet<TermId> TermsInUse() =>
        connection
            .Query<long>("select distinct term_id from series where term_id is not null")
            .Select(id => new TermId(id))
            .ToHashSet();

    /// <summary>
    /// Puts another school time in the place of the stored one, if it still has the expected revision, which then rises by one.
    /// </summary>
    /// <returns>False where somebody else was faster; nothing is changed then.</returns>
    public bool Replace(SchoolTime time, int expectedRevision, Instant now)
    {
        if (
            connection.Execute(
                "update school set revision = revision + 1, changed_at = @at, cycle_start = @start where revision = @expectedRevision",
                new
                {
                    at = now.ToUnixTimeMilliseconds(),
                    expectedRevision,
                    start = time.Cycle is { } cycle ? Stored.Text(cycle.Start) : null,
                }
            ) == 0
        )
            return false;
        connection.Execute(
            "delete from terms where id not in @ids",
            new { ids = time.Terms.Select(term => term.Id.Value).ToArray() }
        );
        foreach (var term in time.Terms)
        {
            if (term.Id == default)
                AddTerm(term.Year, term.Name, term.First, term.Last);
            else
                connection.Execute(
                    "update terms set year = @Year, name = @Name, first_day = @first, last_day = @last where id = @id",
                    new
                    {
                        term.Year,
                        term.Name,
                        first = Stored.Text(term.First),
                        last = Stored.Text(term.Last),
                        id = term.Id.Value,
                    }
                );
        }

        connection.Execute("delete from no_class_days; delete from bell_schedules; delete from cycle_days");
        connection.Execute(
            "insert into no_class_days (first_day, last_day, name, kind) values (@first, @last, @name, @kind)",
            time.NoClassDays.Select(day => new
            {
                first = Stored.Text(day.First),
                last = Stored.Text(day.Last),
                name = day.Name,
                kind = Stored.Text(day.Kind),
            })
        );
        if (!time.Bells.Periods.IsEmpty)
            AddBells(time.Bells, isRegular: true);
        foreach (var other in time.OtherBells)
        {
            var schedule = AddBells(other, isRegular: false);
            connection.Execute(
                "insert into shortened_days (day, schedule_id) values (@day, @schedule)",
                time.ShortenedDays.Where(day => day.Bells == other.Name)
                    .Select(day => new { day = Stored.Text(day.Day), schedule })
            );
        }

        if (time.Cycle is { } turn)
            connection.Execute(
                "insert into cycle_days (position, name) values (@position, @name)",
                turn.Names.Select((name, position) => new { position, name })
            );
        return true;
    }

    private long AddBells(BellSchedule bells, bool isRegular)
    {
        var schedule = connection.ExecuteScalar<long>(
            "insert into bell_schedules (name, is_regular) values (@Name, @regular) returning id",
            new { bells.Name, regular = isRegular ? 1 : 0 }
        );
        connection.Execute(
            "insert into bell_periods (schedule_id, position, name, starts, ends) values (@schedule, @position, @name, @starts, @ends)",
            bells.Periods.Select(
                (period, position) =>
                    new
                    {
                        schedule,
                        position,
                        name = period.Name,
                        starts = Stored.Text(period.Start),
                        ends = Stored.Text(period.End),
                    }
            )
        );
        return schedule;
    }

    private sealed record SchoolRow(
        string Name,
        string Zone,
        long FirstDayOfWeek,
        string? CycleStart,
        long Revision,
        long ChangedAt,
        long MonthFirst,
        long TwelveHours,
        string Help,
        long? PasscodeDays,
        long FrontPage,
        long Listed
    );
}
