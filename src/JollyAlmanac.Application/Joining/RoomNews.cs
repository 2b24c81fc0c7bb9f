using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>
/// Takes in what a provider tells: who was there, and the recording, which becomes a material of the session in place of the
/// link; and ends rooms whose session is over.
/// </summary>
public sealed class RoomNews(
    AlmanacDatabase database,
    IClock clock,
    FileVault vault,
    UploadLimit limit,
    FileCheck check,
    RoomProviders rooms
) : IRoomNews
{
    /// <summary>A session's own room is ended so long after the session, even if somebody is still in it.</summary>
    public static readonly Duration Grace = Duration.FromMinutes(30);

    /// <inheritdoc />
    public void MeetingEnded(EndedMeeting meeting)
    {
        var recording = Store(meeting.Recording);
        database.Write(
            stores =>
            {
                if (stores.School.Find() is not { } school || stores.JoinLinks.OfRoom(meeting.Room) is not { } room)
                    return false;
                var door = LinkDoor.Read(stores, school, room.Link);
                var now = clock.GetCurrentInstant();
                if (room.Session is not null)
                    stores.JoinLinks.CloseRoom(room.Target, now);
                if (SessionOf(door, room.Session, meeting) is not { } session)
                    return true;
                // A host who ends the meeting shuts the door behind the class; one who only tried the room before the start does not.
                if (
                    now >= session.StartsAt
                    && now < session.EndsAt
                    && stores.JoinLinks.Change(
                        door.Link with
                        {
                            Hand = new ManualOverride(false, now, session.EndsAt, session.Key),
                        },
                        door.Link.Version,
                        now
                    )
                )
                    stores.History.Add(
                        now,
                        door.CalendarOf(session).Owner,
                        door.Link.Calendar,
                        HistorySubject.JoinLink,
                        door.Link.Id.Value,
                        Operation.ShutDoor.Name,
                        $"ended the meeting of {LinkDoor.NameOf(session)}; the door of {door.Link.Name} is closed until {Wording.Of(session.EndAtSchool.TimeOfDay)}",
                        null,
                        null
                    );
                stores.JoinLinks.AddAttendance(
                    session.Key,
                    meeting.People.Select(one => (one.Name, one.Entered, one.Minutes))
                );
                if (recording is null)
                    return true;
                var minutes = Math.Max(1, (int)Math.Round((meeting.Ended - meeting.Started).TotalMinutes));
                // Voices and faces: for those who are signed in and see the calendar in full, until its keepers decide otherwise.
                stores.Materials.Add(
                    new Material(
                        default,
                        session.Of.Calendar,
                        session.Of.Id,
                        session.Original,
                        MaterialKey.New(),
                        $"Recording, {minutes} min",
                        recording,
                        MaterialAudience.PeopleOfTheCalendar
                    )
                    {
                        IsRecording = true,
                        Release = stores.School.Defaults().RecordingsWait ? new Release.ByHand() : Release.Now,
                    },
                    door.CalendarOf(session).Owner,
                    now
                );
                stores.Calendars.Touch(session.Of.Calendar, now);
                stores.History.Add(
                    now,
                    door.CalendarOf(session).Owner,
                    session.Of.Calendar,
                    HistorySubject.JoinLink,
                    door.Link.Id.Value,
                    "TakeRecording",
                    $"received the recording of {LinkDoor.NameOf(session)}, {Wording.WithWeekday(session.StartAtSchool.Date)}",
                    null,
                    null
                );
                return true;
            },
            kept => kept
        );
    }

    /// <summary>Ends the rooms of sessions that are over: at once where no host is there, and after a while in any case.</summary>
    /// <returns>How many.</returns>
    public async Task<int> Tidy(CancellationToken cancellation = default)
    {
        if (rooms.Provider is not { } provider)
            return 0;
        var now = clock.GetCurrentInstant();
        var done = database.Read(stores =>
            stores.School.Find() is { } school
                ? stores
                    .JoinLinks.OpenSessionRooms()
                    .Select(room =>
                        (
                            Room: room,
                            Session: stores.Series.Find(room.Session.Series) is { } series
                                ? Planner.PlanOf(series, school.Time).Find(room.Session)
                                : null
                        )
                    )
                    .ToList()
                : []
        );
        var ended = 0;
        foreach (var (room, session) in done)
        {
            if (
                session is { IsHeld: true }
                && (
                    now < session.EndsAt
                    || (
                        now < session.EndsAt + Grace
                        && (await rooms.Ask(provider, (one, ends) => one.Now(room.Room, ends), cancellation)).IsOn
                    )
                )
            )
                continue;
            await rooms.Retire(provider, room.Room, cancellation);
            database.Write(
                stores =>
                {
                    stores.JoinLinks.CloseRoom(room.Id, now);
                    return true;
                },
                _ => true
            );
            ended++;
        }

        return ended;
    }

    private static Session? SessionOf(LinkDoor door, SessionKey? session, EndedMeeting meeting) =>
        session is not { } key
            ? door
                .Schedule.Windows.Where(window => window.Opens <= meeting.Ended && meeting.Started < window.Ends)
                .Select(window => window.Session)
                .LastOrDefault()
            : door.Schedule.Held.FirstOrDefault(one => one.IsKnownBy(key));

    private MaterialContent.StoredFile? Store(RoomRecording? recording)
    {
        if (recording is null || recording.Length == 0 || recording.Length > limit.Bytes)
            return null;
        using var stream = recording.Open();
        using var memory = new MemoryStream();
        stream.CopyTo(memory);
        var bytes = memory.ToArray();
        return check.Of(memory, recording.FileName).Kind is { } kind
            ? new MaterialContent.StoredFile(vault.Add(bytes), recording.FileName, kind.MediaType, bytes.Length)
            : null;
    }
}
