using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using JollyAlmanac.Application.Joining;
using NodaTime;

namespace JollyAlmanac.Demo.Rooms;

/// <summary>Where somebody stands with a room.</summary>
public enum Whereabouts
{
    /// <summary>Waiting to be let in.</summary>
    Waiting,

    /// <summary>Inside.</summary>
    Inside,

    /// <summary>Gone, by themselves or because they stayed away.</summary>
    Gone,

    /// <summary>Taken out by a host.</summary>
    Removed,

    /// <summary>The meeting they were at has ended.</summary>
    Ended,
}

/// <summary>Somebody at or in a room.</summary>
/// <param name="Id">Tells them from others in the room's lists.</param>
/// <param name="Name">As they gave it.</param>
/// <param name="IsHost">They came by a host's address.</param>
/// <param name="Where">Where they stand.</param>
public sealed record InRoom(int Id, string Name, bool IsHost, Whereabouts Where);

/// <summary>A room as one who is at it sees it.</summary>
/// <param name="Key">The room.</param>
/// <param name="Name">What it is for.</param>
/// <param name="IsOn">A host has begun.</param>
/// <param name="Me">Who looks; null for somebody who is not in yet.</param>
/// <param name="Others">The others who wait or are inside; those who wait are shown to hosts alone.</param>
public sealed record RoomSight(string Key, string Name, bool IsOn, InRoom? Me, IReadOnlyList<InRoom> Others);

/// <summary>
/// A stand-in for a service with online rooms: no sound and no picture, but rooms with a passcode, host first, a waiting area,
/// people let in and taken out, attendance, an end for all, and a recording. Rooms outlast a restart; who is inside does not.
/// </summary>
/// <param name="directory">Where it keeps its rooms.</param>
/// <param name="clock">The clock that meetings are noted by.</param>
/// <param name="root">Where its rooms are reached; asked anew each time.</param>
/// <param name="news">Who is told when a meeting has ended.</param>
/// <param name="ticker">By what it sees that somebody's page no longer asks; a clock that is set must not send people away.</param>
public sealed class StandInRooms(
    string directory,
    IClock clock,
    Func<Uri> root,
    Func<IRoomNews> news,
    TimeProvider ticker
) : IRoomProvider
{
    /// <summary>Somebody who has not been seen for so long has gone.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromMinutes(2);

    private readonly Lock gate = new();
    private readonly Dictionary<string, Live> live = new(StringComparer.Ordinal);
    private readonly Dictionary<string, InRoom> over = new(StringComparer.Ordinal);
    private Dictionary<string, Kept>? revisionCache;

    /// <inheritdoc />
    public string Name => "School rooms";

    /// <inheritdoc />
    public int? ReachDays => 120;

    private string File => Path.Combine(directory, "rooms.json");

    /// <inheritdoc />
    public Task<MadeRoom> Make(string name, CancellationToken cancellation)
    {
        lock (gate)
        {
            string key;
            do key = Letters(8);
            while (Rooms.ContainsKey(key));
            var room = new Kept(name, Letters(6), Letters(24), IsRetired: false);
            Rooms[key] = room;
            Save();
            return Task.FromResult(
                new MadeRoom(key, Address(key, room), $"{key[..4]} {key[4..]}", room.Passcode, ["+1 902 555 0140"])
            );
        }
    }

    /// <inheritdoc />
    public Task<Uri?> EntranceOf(string key, CancellationToken cancellation)
    {
        lock (gate)
            return Task.FromResult(Find(key) is { } room ? Address(key, room) : null);
    }

    /// <inheritdoc />
    public Task<Uri?> HostEntranceOf(string key, string host, CancellationToken cancellation)
    {
        lock (gate)
            return Task.FromResult(
                Find(key) is { } room
                    ? new Uri(root(), $"rooms/{key}?host={HostPass(room, host)}&name={Uri.EscapeDataString(host)}")
                    : null
            );
    }

    /// <inheritdoc />
    public Task<RoomNow> Now(string key, CancellationToken cancellation)
    {
        lock (gate)
        {
            if (!live.TryGetValue(key, out var meeting))
                return Task.FromResult(new RoomNow(false, 0, 0));
            Sweep(meeting);
            return Task.FromResult(
                new RoomNow(meeting.IsOn, meeting.Count(Whereabouts.Inside), meeting.Count(Whereabouts.Waiting))
            );
        }
    }

    /// <inheritdoc />
    public Task Retire(string key, CancellationToken cancellation)
    {
        EndedMeeting? ended;
        lock (gate)
        {
            if (Find(key) is not { } room)
                return Task.CompletedTask;
            Rooms[key] = room with { IsRetired = true };
            Save();
            ended = End(key);
        }

        Tell(ended);
        return Task.CompletedTask;
    }

    /// <summary>Comes to a room's door.</summary>
    /// <param name="key">The room.</param>
    /// <param name="passcode">Its passcode; a host needs none.</param>
    /// <param name="host">What a host's address carries; null for others.</param>
    /// <param name="name">How they want to be called.</param>
    /// <returns>A token that stands for them, or the reason why they cannot come in.</returns>
    public (string? Token, string? Reason) Come(string key, string? passcode, string? host, string? name)
    {
        lock (gate)
        {
            if (Find(key) is not { } room)
                return (null, "There is no such room any more.");
            name = string.Join(
                ' ',
                new string([.. (name ?? "").Where(letter => !char.IsControl(letter))]).Split(
                    ' ',
                    StringSplitOptions.RemoveEmptyEntries
                )
            );
            if (name.Length is 0 or > 60)
                return (null, "Say who you are, in up to 60 letters.");
            var isHost = host is not null && Same(host, HostPass(room, name));
            if (!isHost && !Same(passcode ?? "", room.Passcode))
                return (null, "That passcode is not right. Look at where you found the room.");
            var meeting = live.TryGetValue(key, out var there) ? there : live[key] = new Live();
            var now = clock.GetCurrentInstant();
            var person = new Person(meeting.People.Count + 1, name, isHost)
            {
                Where = isHost ? Whereabouts.Inside : Whereabouts.Waiting,
                Seen = ticker.GetTimestamp(),
                Since = now,
                Entered = isHost ? now : null,
            };
            // Nobody is in before the host; with the host, the meeting begins.
            if (isHost)
                meeting.Started ??= now;
            var token = Letters(26);
            meeting.People[token] = person;
            return (token, null);
        }
    }

    /// <summary>A room as the one with that token sees it; null where there is no such room (any more).</summary>
    public RoomSight? Look(string key, string? token)
    {
        lock (gate)
        {
            if (Find(key) is not { } room)
                return null;
            if (token is not null && over.TryGetValue(token, out var was))
                return new RoomSight(key, room.Name, false, was, []);
            if (!live.TryGetValue(key, out var meeting))
                return new RoomSight(key, room.Name, false, null, []);
            var me = token is null ? null : meeting.People.GetValueOrDefault(token);
            if (me is not null)
                me.Seen = ticker.GetTimestamp();
            Sweep(meeting);
            var others = meeting.People.Values.Where(one =>
                one != me
                && (one.Where == Whereabouts.Inside || (one.Where == Whereabouts.Waiting && me is { IsHost: true }))
            );
            return new RoomSight(
                key,
                room.Name,
                meeting.IsOn,
                me?.Shown,
                me is { Where: Whereabouts.Inside } ? [.. others.Select(one => one.Shown)] : []
            );
        }
    }

    /// <summary>A host lets somebody in, or all who wait.</summary>
    public bool Admit(string key, string token, int? person) => AsHost(key, token, meeting =>
        {
            foreach (
                var one in meeting.People.Values.Where(one =>
                    one.Where == Whereabouts.Waiting && (person is null || one.Id == person)
                )
            )
            {
                (one.Where, one.Since) = (Whereabouts.Inside, clock.GetCurrentInstant());
                one.Entered ??= one.Since;
            }
        });

    /// <summary>A host takes somebody out.</summary>
    public bool Remove(string key, string token, int person) => AsHost(key, token, meeting =>
        {
            if (meeting.People.Values.FirstOrDefault(one => one.Id == person && !one.IsHost) is { } one)
                Go(one, Whereabouts.Removed);
        });

    /// <summary>Somebody leaves.</summary>
    public void Leave(string key, string token)
    {
        lock (gate)
            if (live.TryGetValue(key, out var meeting) && meeting.People.TryGetValue(token, out var person))
                Go(person, Whereabouts.Gone);
    }

    /// <summary>A host ends the meeting for all.</summary>
    public bool EndForAll(string key, string token)
    {
        EndedMeeting? ended = null;
        lock (gate)
        {
            if (!IsHost(key, token))
                return false;
            ended = End(key);
        }

        Tell(ended);
        return true;
    }

    private Dictionary<string, Kept> Rooms =>
        revisionCache ??= System.IO.File.Exists(File)
            ? JsonSerializer.Deserialize<Dictionary<string, Kept>>(System.IO.File.ReadAllText(File))!
            : [];

    private bool IsHost(string key, string token) =>
        live.TryGetValue(key, out var meeting)
        && meeting.People.TryGetValue(token, out var person)
        && person is { IsHost: true, Where: Whereabouts.Inside };

    private bool AsHost(string key, string token, Action<Live> act)
    {
        lock (gate)
        {
            if (!IsHost(key, token))
                return false;
            act(live[key]);
            return true;
        }
    }

    private EndedMeeting? End(string key)
    {
        if (!live.Remove(key, out var meeting) || meeting.Started is not { } started)
            return null;
        foreach (var (token, person) in meeting.People)
        {
            Go(person, Whereabouts.Ended);
            if (person.Where == Whereabouts.Ended)
                over[token] = person.Shown;
        }

        var people = meeting
            .People.Values.Where(one => one.Entered is not null)
            .OrderBy(one => one.Entered)
            .Select(one => new Attendee(one.Name, one.Entered!.Value, (int)Math.Round(one.Inside.TotalMinutes)))
            .ToList();
        var sound = Tone();
        return new EndedMeeting(
            key,
            started,
            clock.GetCurrentInstant(),
            people,
            new RoomRecording("recording.wav", sound.Length, () => new MemoryStream(sound))
        );
    }

    // Outside of the lock: who is told may ask back.
    private void Tell(EndedMeeting? ended)
    {
        if (ended is not null)
            news().MeetingEnded(ended);
    }

    private void Sweep(Live meeting)
    {
        foreach (var person in meeting.People.Values)
            if (
                person.Where is Whereabouts.Waiting or Whereabouts.Inside
                && ticker.GetElapsedTime(person.Seen) > Patience
            )
                Go(person, Whereabouts.Gone);
    }

    private void Go(Person person, Whereabouts to)
    {
        if (person.Where == Whereabouts.Inside)
            person.Inside += Duration.Max(Duration.Zero, clock.GetCurrentInstant() - person.Since);
        if (person.Where is Whereabouts.Waiting or Whereabouts.Inside)
            person.Where = to;
    }

    private Kept? Find(string key) => Rooms.TryGetValue(key, out var room) && !room.IsRetired ? room : null;

    private Uri Address(string key, Kept room) => new(root(), $"rooms/{key}/{room.Passcode}");

    private void Save()
    {
        Directory.CreateDirectory(directory);
        var beside = File + ".new";
        System.IO.File.Delete(beside);
        // It holds passcodes: for nobody else on this machine.
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        using (var file = new FileStream(beside, options))
            JsonSerializer.Serialize(file, Rooms);
        System.IO.File.Move(beside, File, overwrite: true);
    }

    private static string HostPass(Kept room, string name) =>
        Convert.ToHexStringLower(
            HMACSHA256.HashData(Encoding.UTF8.GetBytes(room.HostSecret), Encoding.UTF8.GetBytes(name))
        )[..32];

    private static bool Same(string one, string other) =>
        CryptographicOperations.FixedTimeEquals(
            SHA256.HashData(Encoding.UTF8.GetBytes(one)),
            SHA256.HashData(Encoding.UTF8.GetBytes(other))
        );

    private static string Letters(int count) => RandomNumberGenerator.GetString("34679cdfghjkmnpqrtwx", count);

    // Half a second of a soft tone: 8 kHz, 8 bits, one channel.
    private static byte[] Tone()
    {
        const int Rate = 8000,
            Count = Rate / 2;
        using var memory = new MemoryStream();
        using var writer = new BinaryWriter(memory);
        writer.Write("RIFF"u8);
        writer.Write(36 + Count);
        writer.Write("WAVEfmt "u8);
        writer.Write(16);
        writer.Write((short)1);
        writer.Write((short)1);
        writer.Write(Rate);
        writer.Write(Rate);
        writer.Write((short)1);
        writer.Write((short)8);
        writer.Write("data"u8);
        writer.Write(Count);
        for (var at = 0; at < Count; at++)
            writer.Write((byte)(128 + (40 * Math.Sin(2 * Math.PI * 440 * at / Rate))));
        return memory.ToArray();
    }

    private sealed record Kept(string Name, string Passcode, string HostSecret, bool IsRetired);

    private sealed class Live
    {
        public Instant? Started { get; set; }

        public Dictionary<string, Person> People { get; } = new(StringComparer.Ordinal);

        public bool IsOn => People.Values.Any(one => one is { IsHost: true, Where: Whereabouts.Inside });

        public int Count(Whereabouts where) => People.Values.Count(one => one.Where == where);
    }

    private sealed class Person(int id, string name, bool isHost)
    {
        public int Id { get; } = id;

        public string Name { get; } = name;

        public bool IsHost { get; } = isHost;

        public Whereabouts Where { get; set; }

        public long Seen { get; set; }

        public Instant Since { get; set; }

        public Instant? Entered { get; set; }

        public Duration Inside { get; set; }

        public InRoom Shown => new(Id, Name, IsHost, Where);
    }
}
