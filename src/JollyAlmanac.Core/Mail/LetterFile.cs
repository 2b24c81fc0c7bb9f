namespace JollyAlmanac.Core.Mail;

/// <summary>A calendar file in a letter: for who wants it, and nothing that a program is to take in by itself.</summary>
/// <param name="Name">"french-8-copy.ics".</param>
/// <param name="Calendar">The iCalendar document.</param>
public sealed record LetterFile(string Name, string Calendar);
