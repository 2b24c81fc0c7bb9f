using JollyAlmanac.Core.Data;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>Rows that cannot be read, to be told in the margin.</summary>
/// <param name="Rows">The rows.</param>
/// <param name="Versions">Where series can be taken off from there: the version of each.</param>
public sealed record UnreadableRows(IReadOnlyList<Unreadable> Rows, IReadOnlyDictionary<long, int>? Versions = null);

/// <summary>How what cannot be read is called, and what to do about it.</summary>
public static class UnreadableWords
{
    /// <summary>"A join link".</summary>
    public static string InWords(this UnreadableKind kind) =>
        kind switch
        {
            UnreadableKind.Term => "A term",
            UnreadableKind.NoClassDay => "A no-class day",
            UnreadableKind.Bells => "A list of periods",
            UnreadableKind.ShortenedDay => "A shortened day",
            UnreadableKind.Person => "A person",
            UnreadableKind.Calendar => "A calendar",
            UnreadableKind.Grant => "A permission",
            UnreadableKind.Answer => "An answer by e-mail",
            UnreadableKind.JoinLink => "A join link",
            UnreadableKind.Series => "A series",
            UnreadableKind.Change => "A change of one session",
            UnreadableKind.Material => "A material",
            UnreadableKind.Outlet => "A feed or embed",
            UnreadableKind.SchoolDefaults => "A default of the school",
            _ => "A guest link",
        };

    /// <summary>What to do about it.</summary>
    public static string Remedy(this UnreadableKind kind) =>
        kind switch
        {
            UnreadableKind.Term or UnreadableKind.NoClassDay or UnreadableKind.Bells or UnreadableKind.ShortenedDay =>
                "A coordinator can enter it anew under School time.",
            UnreadableKind.JoinLink =>
                "Open it under Join links, choose Change, look through its fields and save it. Its door stays shut until then.",
            UnreadableKind.SchoolDefaults => "A coordinator can set it anew under People, Defaults.",
            UnreadableKind.Outlet => "Revoke it under Publishing and make a new one.",
            UnreadableKind.Change => "It is kept as it is. Change that session again, or go back in the history.",
            UnreadableKind.Material => "Take it off in the composer and attach it again.",
            UnreadableKind.Grant => "It lets nobody in. Give that permission again.",
            UnreadableKind.Answer => "It counts as none. Whoever gave it can answer again.",
            UnreadableKind.GuestLink => "It leads nowhere. Make a new one.",
            UnreadableKind.Calendar => "Open Change on that calendar, look through its fields and save it.",
            _ => "Whoever runs the almanac can look at it.",
        };
}
