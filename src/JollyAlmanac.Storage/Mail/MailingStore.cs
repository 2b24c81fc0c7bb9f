using Dapper;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.Rows;
using Microsoft.Data.Sqlite;
using NodaTime;

namespace JollyAlmanac.Storage.Mail;

/// <summary>Who gets sessions by e-mail, what they were sent, and what they answered.</summary>
public sealed class MailingStore
{
    private const string Sent =
        "select id, series_id as SeriesRef, person_id as PersonRef, title, sequence, times, content, ends_at as EndsAt, cancelled_at as CancelledAt from mailed_series";

    private readonly SqliteConnection connection;
    private readonly RowReader rows;

    internal MailingStore(SqliteConnection connection, RowReader rows) =>
        (this.connection, this.rows) = (connection, rows);

    /// <summary>Somebody gets a calendar's sessions by e-mail from now on.</summary>
    /// <returns>False where they got them already.</returns>
    public bool Add(CalendarId calendar, PersonId person, Instant now) =>
        connection.Execute(
            "insert into mailings (calendar_id, person_id, since) values (@calendar, @person, @now) on conflict do nothing",
            new
            {
                calendar = calendar.Value,
                person = person.Value,
                now = now.ToUnixTimeMilliseconds(),
            }
        ) == 1;

    /// <summary>Somebody gets them no longer. What was sent is left to be taken back.</summary>
    public bool Remove(CalendarId calendar, PersonId person) =>
        connection.Execute(
            "delete from mailings where calendar_id = @calendar and person_id = @person",
            new { calendar = calendar.Value, person = person.Value }
        ) == 1;

    /// <summary>Whether somebody gets a calendar's sessions.</summary>
    public bool Has(CalendarId calendar, PersonId person) =>
        connection.ExecuteScalar<long>(
            "select count(*) from mailings where calendar_id = @calendar and person_id = @person",
            new { calendar = calendar.Value, person = person.Value }
        ) == 1;

    /// <summary>Who gets a calendar's sessions, the first first.</summary>
    public IReadOnlyList<Mailing> Of(CalendarId calendar) =>
        Read("where calendar_id = @id order by since, person_id", calendar.Value);

    /// <summary>Which calendars' sessions somebody gets.</summary>
    public IReadOnlyList<Mailing> Of(PersonId person) =>
        Read("where person_id = @id order by since, calendar_id", person.Value);

    /// <summary>Those for which something may have changed since they were looked at.</summary>
    /// <param name="day">The school's day: access may end with one.</param>
    /// <param name="most">At most so many.</param>
    public IReadOnlyList<Mailing> ToLookAt(LocalDate day, int most) =>
        [
            .. connection
                .Query<MailingRow>(
                    $"""
                    select m.calendar_id as CalendarRef, m.person_id as PersonRef, m.since from mailings m join calendars c on c.id = m.calendar_id
                        cross join school s where m.looked_at <> {AsItStands} limit @most
                    """,
                    new { day = Stored.Text(day), most }
                )
                .Select(Of),
        ];

    /// <summary>Notes that one was looked at as it stands now.</summary>
    public void Looked(CalendarId calendar, PersonId person, LocalDate day) =>
        connection.Execute(
            $"""
            update mailings as m set looked_at = (select {AsItStands} from calendars c cross join school s where c.id = m.calendar_id)
                where calendar_id = @calendar and person_id = @person
            """,
            new
            {
                calendar = calendar.Value,
                person = person.Value,
                day = Stored.Text(day),
            }
        );

    private const string AsItStands = "c.standing || ' ' || s.standing || ' ' || @day";

    /// <summary>What somebody was sent of a calendar's series.</summary>
    public IReadOnlyList<MailedSeries> SentOf(CalendarId calendar, PersonId person) =>
        Sents(
            """
            where person_id = @person and series_id in (select id from series where calendar_id = @calendar
                or calendar_id not in (select calendar_id from mailings where person_id = @person)) order by id
            """,
            new { calendar = calendar.Value, person = person.Value }
        );

    /// <summary>What everybody was sent of a series.</summary>
    public IReadOnlyList<MailedSeries> SentOf(SeriesId series) =>
        Sents("where series_id = @series order by id", new { series = series.Value });

    /// <summary>What everybody was sent of a calendar's series.</summary>
    public IReadOnlyList<MailedSeries> SentOf(CalendarId calendar) =>
        Sents(
            "where series_id in (select id from series where calendar_id = @calendar) order by id",
            new { calendar = calendar.Value }
        );

    /// <summary>What was sent by its id; null where there is none.</summary>
    public MailedSeries? Find(long id) => Sents("where id = @id", new { id }).SingleOrDefault();

    /// <summary>What somebody was sent of the series with that UID; null for nothing.</summary>
    public MailedSeries? Find(string uid, PersonId person) =>
        Sents(
                "where person_id = @person and series_id = (select id from series where uid = @uid)",
                new { uid, person = person.Value }
            )
            .SingleOrDefault();

    /// <summary>Keeps what is sent.</summary>
    /// <returns>Its id.</returns>
    public long Store(MailedSeries sent)
    {
        var values = new
        {
            id = sent.Id,
            series = sent.Series.Value,
            person = sent.Person.Value,
            title = sent.Title,
            sequence = sent.Sequence,
            times = sent.Times,
            content = sent.Content,
            ends = sent.EndsAt.ToUnixTimeMilliseconds(),
            cancelled = sent.CancelledAt?.ToUnixTimeMilliseconds(),
        };
        if (sent.Id == 0)
            return connection.ExecuteScalar<long>(
                """
                insert into mailed_series (series_id, person_id, title, sequence, times, content, ends_at, cancelled_at)
                values (@series, @person, @title, @sequence, @times, @content, @ends, @cancelled) returning id
                """,
                values
            );
        connection.Execute(
            """
            update mailed_series set title = @title, sequence = @sequence, times = @times, content = @content, ends_at = @ends,
                cancelled_at = @cancelled where id = @id
            """,
            values
        );
        return sent.Id;
    }

    /// <summary>Forgets what was sent, with its answers: all of it is over, or none of it ever went.</summary>
    public void Forget(long id) => connection.Execute("delete from mailed_series where id = @id", new { id });

    /// <summary>The answers to what was sent of a calendar.</summary>
    public IReadOnlyList<MailedAnswer> AnswersOn(CalendarId calendar) =>
        rows.All(
            connection.Query<AnswerRow>(
                """
                select a.mailed_id as MailedRef, a.session, a.answer, a.sequence, a.stamp from mail_answers a
                    join mailed_series m on m.id = a.mailed_id join series s on s.id = m.series_id where s.calendar_id = @calendar
                    order by a.mailed_id, a.session
                """,
                new { calendar = calendar.Value }
            ),
            ToAnswer,
            row => (UnreadableKind.Answer, row.MailedRef, calendar, "an answer by mail")
        );

    /// <summary>The answer about the whole series; null where there is none.</summary>
    public MailedAnswer? AnswerTo(long mailed, string session) =>
        rows.All(
                connection.Query<AnswerRow>(
                    "select mailed_id as MailedRef, session, answer, sequence, stamp from mail_answers where mailed_id = @mailed and session = @session",
                    new { mailed, session }
                ),
                ToAnswer,
                row => (UnreadableKind.Answer, row.MailedRef, null, "an answer by mail")
            )
            .SingleOrDefault();

    /// <summary>Keeps an answer in place of one before.</summary>
    public void Answer(MailedAnswer answer) =>
        connection.Execute(
            """
            insert into mail_answers (mailed_id, session, answer, sequence, stamp) values (@mailed, @session, @answer, @sequence, @stamp)
                on conflict do update set answer = excluded.answer, sequence = excluded.sequence, stamp = excluded.stamp
            """,
            new
            {
                mailed = answer.Mailed,
                session = answer.Session,
                answer = Stored.Text(answer.Answer),
                sequence = answer.Sequence,
                stamp = answer.At.ToUnixTimeMilliseconds(),
            }
        );

    private List<Mailing> Read(string where, long id) =>
        [
            .. connection
                .Query<MailingRow>(
                    $"select calendar_id as CalendarRef, person_id as PersonRef, since from mailings {where}",
                    new { id }
                )
                .Select(Of),
        ];

    private static Mailing Of(MailingRow row) =>
        new(new CalendarId(row.CalendarRef), new PersonId(row.PersonRef), Stored.At(row.Since));

    private List<MailedSeries> Sents(string where, object values) =>
        [
            .. connection
                .Query<SentRow>($"{Sent} {where}", values)
                .Select(row => new MailedSeries(
                    row.Id,
                    new SeriesId(row.SeriesRef),
                    new PersonId(row.PersonRef),
                    row.Title,
                    (int)row.Sequence,
                    row.Times,
                    row.Content,
                    Stored.At(row.EndsAt),
                    row.CancelledAt is { } at ? Stored.At(at) : null
                )),
        ];

    private static MailedAnswer ToAnswer(AnswerRow row) =>
        new(row.MailedRef, row.Session, Stored.As<MailAnswer>(row.Answer), (int)row.Sequence, Stored.At(row.Stamp));

    private sealed record MailingRow(long CalendarRef, long PersonRef, long Since);

    private sealed record SentRow(
        long Id,
        long SeriesRef,
        long PersonRef,
        string Title,
        long Sequence,
        string Times,
        string Content,
        long EndsAt,
        long? CancelledAt
    );

    /// <summary>Everybody who is reminded before sessions, by calendar, with how many minutes before.</summary>
    public ILookup<CalendarId, (PersonId Person, int Minutes)> Reminders() =>
        connection
            .Query<(long Calendar, long Person, long Minutes)>(
                "select calendar_id, person_id, minutes from reminders order by calendar_id"
            )
            .ToLookup(row => new CalendarId(row.Calendar), row => (new PersonId(row.Person), (int)row.Minutes));

    /// <summary>How many minutes before each session somebody is reminded; null for not at all.</summary>
    public int? ReminderOf(CalendarId calendar, PersonId person) =>
        (int?)
            connection.ExecuteScalar<long?>(
                "select minutes from reminders where calendar_id = @calendar and person_id = @person",
                new { calendar = calendar.Value, person = person.Value }
            );

    /// <summary>Reminds somebody before each session from now on; null for no longer.</summary>
    public void SetReminder(CalendarId calendar, PersonId person, int? minutes) =>
        connection.Execute(
            minutes is null
                ? "delete from reminders where calendar_id = @calendar and person_id = @person"
                : "insert into reminders (calendar_id, person_id, minutes) values (@calendar, @person, @minutes) on conflict (calendar_id, person_id) do update set minutes = @minutes",
            new
            {
                calendar = calendar.Value,
                person = person.Value,
                minutes,
            }
        );

    /// <summary>Notes that somebody is reminded of a session at its present time; null where they were.</summary>
    public long? Remind(SessionKey session, PersonId person, Instant startsAt) =>
        connection.ExecuteScalar<long?>(
            """
            insert into reminded (series_id, person_id, session, starts_at) values (@series, @person, @session, @startsAt)
                on conflict do nothing returning id
            """,
            new
            {
                series = session.Series.Value,
                person = person.Value,
                session = Stored.Text(session.Original),
                startsAt = startsAt.ToUnixTimeMilliseconds(),
            }
        );

    /// <summary>What a reminder is about; null where it is forgotten.</summary>
    public (SessionKey Session, PersonId Person, Instant StartsAt)? Reminded(long id) =>
        connection.QuerySingleOrDefault<(long Series, long Person, string Session, long StartsAt)>(
            "select series_id, person_id, session, starts_at from reminded where id = @id",
            new { id }
        )
            is { Session: not null } row
            ? (
                new SessionKey(new SeriesId(row.Series), Stored.Original(row.Session)),
                new PersonId(row.Person),
                Stored.At(row.StartsAt)
            )
            : null;

    /// <summary>Forgets reminders of sessions that are over.</summary>
    public void ForgetReminded(Instant before) =>
        connection.Execute(
            "delete from reminded where starts_at < @before",
            new { before = before.ToUnixTimeMilliseconds() }
        );

    private sealed record AnswerRow(long MailedRef, string Session, string Answer, long Sequence, long Stamp);
}
