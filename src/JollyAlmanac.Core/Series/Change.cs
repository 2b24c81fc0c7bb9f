using JollyAlmanac.Core.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Core.Series;

/// <summary>Whether a person decided that one session meets or not.</summary>
public enum SessionStatus
{
    /// <summary>As the pattern and the school's days have it.</summary>
    AsPlanned,

    /// <summary>It does not meet.</summary>
    Cancelled,

    /// <summary>It meets, though the day is a no-class day.</summary>
    Held,
}

/// <summary>
/// What a person did to one session. It is stored and stays when the pattern changes; where its session is gone it is loose
/// until somebody decides.
/// </summary>
/// <param name="Original">The session's original local start (RECURRENCE-ID). A session of the pattern is known by its date, so that a new
/// hour keeps its changes.</param>
/// <param name="Status">Cancelled, or held in spite of a no-class day.</param>
/// <param name="Day">The day it is moved to; null for its own.</param>
/// <param name="Time">The time it is moved to; null for the pattern's.</param>
/// <param name="Title">Another title; null for the series'.</param>
/// <param name="Place">Another place; null for the series'.</param>
/// <param name="Note">A note for this session alone; empty for none.</param>
public sealed record Change(
    LocalDateTime Original,
    SessionStatus Status = SessionStatus.AsPlanned,
    LocalDate? Day = null,
    SessionTime? Time = null,
    string? Title = null,
    string? Place = null,
    string Note = ""
)
{
    /// <summary>Another join link; null for the series'.</summary>
    public JoinLinkId? Link { get; init; }

    /// <summary>When the door is open for this session; null for the link's rule.</summary>
    public EntryRule? Entry { get; init; }

    /// <summary>Whether it is not certain yet that it takes place; null for as the series has it.</summary>
    public bool? IsTentative { get; init; }

    /// <summary>It changes nothing (any more).</summary>
    public bool IsEmpty => this == new Change(Original);

    /// <summary>What it does, in words: "moved to Thu 15 Oct, retitled".</summary>
    public string InWords
    {
        get
        {
            var words = new List<string>();
            if (Status == SessionStatus.Cancelled)
                words.Add("cancelled");
            if (Status == SessionStatus.Held)
                words.Add("meets in spite of the no-class day");
            if (Day is { } day)
                words.Add($"moved to {Wording.WithWeekday(day)}");
            if (Time is { } time)
                words.Add($"at {SayBack.Of(time)}");
            if (Title is { } title)
                words.Add($"titled “{title}”");
            if (Place is { } place)
                words.Add(place.Length == 0 ? "without a place" : $"in {place}");
            if (Link is not null)
                words.Add("with another join link");
            if (Entry is { } entry)
                words.Add($"with a door of its own ({entry.InWords})");
            if (IsTentative is { } tentative)
                words.Add(tentative ? "not certain yet" : "certain");
            if (Note.Length > 0)
                words.Add($"with the note “{Note}”");
            return Wording.List(words);
        }
    }
}
