using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Terms;

namespace JollyAlmanac.Application.Mail;

/// <summary>What letters about sessions say of what to do, and whom to ask.</summary>
internal static class LetterHelp
{
    /// <summary>The paragraphs; none where nothing is said.</summary>
    /// <param name="link">The link that the sessions are joined by, where its reader may know of it.</param>
    /// <param name="calendar">Their calendar.</param>
    /// <param name="school">The school.</param>
    /// <param name="level">The reader's level on the calendar: whom to ask there is a detail.</param>
    public static IEnumerable<string> Of(JoinLink? link, Calendar calendar, School school, AccessLevel level)
    {
        if (link is { LeadsNowhere: false, WhatToDo.Length: > 0 })
            yield return $"What to do:\n{link.WhatToDo}";
        var ask = new[]
        {
            calendar.Contact.Length > 0 && AccessRules.May(Permission.SeeDetails, level)
                ? $"Ask {calendar.Contact}"
                : "",
            school.Help,
        }
            .Where(text => text.Length > 0)
            .ToList();
        if (ask.Count > 0)
            yield return $"Something does not work?\n{string.Join('\n', ask)}";
    }
}
