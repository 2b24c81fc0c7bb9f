using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>A way into sessions, as a calendar shows it.</summary>
/// <param name="Code">The short address.</param>
/// <param name="OnlyFor">The only ones it is shown to; null for all.</param>
/// <param name="Entry">When its door is open; null where that is not told.</param>
public readonly record struct JoinWay(JoinCode Code, Audience? OnlyFor = null, EntryRule? Entry = null);
