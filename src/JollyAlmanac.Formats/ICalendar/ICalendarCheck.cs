using System.Collections.Frozen;
using System.Globalization;
using JollyAlmanac.Core.Recurrence;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// Holds a file against RFC 5545: which properties a component must and may have, how often, with values of which type, and what must fit
/// together. Beside what the reader had to forgive.
/// </summary>
public static class ICalendarCheck
{
    private const int MostBreaches = 1000;

    // What each component must have, and may have once at most; others may stand as often as they like (§3.6.1 to §3.6.6). "!" must.
    private static readonly FrozenDictionary<string, (string Section, string Once)> Components = new Dictionary<
        string,
        (string, string)
    >
    {
        ["VCALENDAR"] = ("3.6", "!PRODID !VERSION CALSCALE METHOD"),
        ["VEVENT"] = (
            "3.6.1",
            "!UID !DTSTAMP DTSTART CLASS CREATED DESCRIPTION GEO LAST-MODIFIED LOCATION ORGANIZER PRIORITY SEQUENCE STATUS SUMMARY TRANSP URL RECURRENCE-ID DTEND DURATION COLOR"
        ),
        ["VTODO"] = (
            "3.6.2",
            "!UID !DTSTAMP CLASS COMPLETED CREATED DESCRIPTION DTSTART GEO LAST-MODIFIED LOCATION ORGANIZER PERCENT-COMPLETE PRIORITY RECURRENCE-ID SEQUENCE STATUS SUMMARY URL DUE DURATION COLOR"
        ),
        ["VJOURNAL"] = (
            "3.6.3",
            "!UID !DTSTAMP CLASS CREATED DTSTART LAST-MODIFIED ORGANIZER RECURRENCE-ID SEQUENCE STATUS SUMMARY URL COLOR"
        ),
        ["VFREEBUSY"] = ("3.6.4", "!UID !DTSTAMP CONTACT DTSTART DTEND ORGANIZER URL"),
        ["VTIMEZONE"] = ("3.6.5", "!TZID LAST-MODIFIED TZURL"),
        ["STANDARD"] = ("3.6.5", "!DTSTART !TZOFFSETFROM !TZOFFSETTO"),
        ["DAYLIGHT"] = ("3.6.5", "!DTSTART !TZOFFSETFROM !TZOFFSETTO"),
        ["VALARM"] = ("3.6.6", "!ACTION !TRIGGER DURATION REPEAT"),
    }.ToFrozenDictionary();

    // Where each component may stand.
    private static readonly FrozenDictionary<string, string> Homes = new Dictionary<string, string>
    {
        ["VEVENT"] = "VCALENDAR",
        ["VTODO"] = "VCALENDAR",
        ["VJOURNAL"] = "VCALENDAR",
        ["VFREEBUSY"] = "VCALENDAR",
        ["VTIMEZONE"] = "VCALENDAR",
        ["STANDARD"] = "VTIMEZONE",
        ["DAYLIGHT"] = "VTIMEZONE",
        ["VALARM"] = "VEVENT VTODO",
    }.ToFrozenDictionary();

    // Properties of RFC 5545 with the components that may have them, and the section that says so; what is not here may stand anywhere.
    private static readonly FrozenDictionary<string, (string Section, string In)> Properties = new Dictionary<
        string,
        (string, string)
    >
    {
        ["CALSCALE"] = ("3.7.1", "VCALENDAR"),
        ["METHOD"] = ("3.7.2", "VCALENDAR"),
        ["PRODID"] = ("3.7.3", "VCALENDAR"),
        ["VERSION"] = ("3.7.4", "VCALENDAR"),
        ["GEO"] = ("3.8.1.6", "VEVENT VTODO"),
        ["LOCATION"] = ("3.8.1.7", "VEVENT VTODO VAVAILABILITY AVAILABLE VLOCATION"),
        ["PERCENT-COMPLETE"] = ("3.8.1.8", "VTODO"),
        ["COMPLETED"] = ("3.8.2.1", "VTODO"),
        ["DTEND"] = ("3.8.2.2", "VEVENT VFREEBUSY VAVAILABILITY AVAILABLE"),
        ["DUE"] = ("3.8.2.3", "VTODO"),
        ["FREEBUSY"] = ("3.8.2.6", "VFREEBUSY"),
        ["TRANSP"] = ("3.8.2.7", "VEVENT"),
        ["TZOFFSETFROM"] = ("3.8.3.3", "STANDARD DAYLIGHT"),
        ["TZOFFSETTO"] = ("3.8.3.4", "STANDARD DAYLIGHT"),
        ["TZNAME"] = ("3.8.3.2", "STANDARD DAYLIGHT"),
        ["TZURL"] = ("3.8.3.5", "VTIMEZONE"),
        ["TZID"] = ("3.8.3.1", "VTIMEZONE"),
        ["RECURRENCE-ID"] = ("3.8.4.4", "VEVENT VTODO VJOURNAL AVAILABLE"),
        ["EXDATE"] = ("3.8.5.1", "VEVENT VTODO VJOURNAL STANDARD DAYLIGHT AVAILABLE"),
        ["RDATE"] = ("3.8.5.2", "VEVENT VTODO VJOURNAL STANDARD DAYLIGHT AVAILABLE"),
        ["RRULE"] = ("3.8.5.3", "VEVENT VTODO VJOURNAL STANDARD DAYLIGHT AVAILABLE"),
        ["ACTION"] = ("3.8.6.1", "VALARM"),
        ["REPEAT"] = ("3.8.6.2", "VALARM"),
        ["TRIGGER"] = ("3.8.6.3", "VALARM"),
        ["RESOURCES"] = ("3.8.1.10", "VEVENT VTODO"),
        ["STATUS"] = ("3.8.1.11", "VEVENT VTODO VJOURNAL PARTICIPANT"),
        ["CREATED"] = ("3.8.7.1", "VEVENT VTODO VJOURNAL VAVAILABILITY AVAILABLE"),
        ["SEQUENCE"] = ("3.8.7.4", "VEVENT VTODO VJOURNAL VAVAILABILITY"),
    }.ToFrozenDictionary();

    private static readonly FrozenDictionary<string, string> Statuses = new Dictionary<string, string>
    {
        ["VEVENT"] = "TENTATIVE CONFIRMED CANCELLED",
        ["VTODO"] = "NEEDS-ACTION COMPLETED IN-PROCESS CANCELLED",
        ["VJOURNAL"] = "DRAFT FINAL CANCELLED",
    }.ToFrozenDictionary();

    private static readonly FrozenSet<string> Texts = FrozenSet.ToFrozenSet([
        "SUMMARY",
        "DESCRIPTION",
        "LOCATION",
        "COMMENT",
        "CONTACT",
        "CATEGORIES",
        "RESOURCES",
        "UID",
        "TZNAME",
        "RELATED-TO",
    ]);

    private static readonly FrozenSet<string> Addresses = FrozenSet.ToFrozenSet([
        "URL",
        "TZURL",
        "ORGANIZER",
        "ATTENDEE",
    ]);

    /// <summary>Every breach, by line.</summary>
    public static IReadOnlyList<Breach> Of(ICalendarFile file)
    {
        var check = new Checking();
        if (file.Calendars.Count == 0)
            check.Tell(1, "3.4", "There is no calendar in the file.", "Begin it with BEGIN:VCALENDAR.");
        foreach (var calendar in file.Calendars)
            check.Calendar(calendar);
        return [.. file.Breaches.Concat(check.Found).OrderBy(breach => breach.Line).Take(MostBreaches)];
    }

    private sealed class Checking
    {
        private readonly List<Breach> found = [];
        private HashSet<string> zones = [];

        public IReadOnlyList<Breach> Found => found;

        public void Tell(int line, string section, string says, string remedy)
        {
            if (found.Count < MostBreaches)
                found.Add(new Breach(line, section, says, remedy));
        }

        public void Calendar(Component calendar)
        {
            zones =
            [
                .. calendar
                    .Parts.Where(part => part.Name == "VTIMEZONE")
                    .Select(part => part.Find("TZID")?.Value.Trim())
                    .OfType<string>(),
            ];
            foreach (
                var same in calendar
                    .Parts.Where(part => part.Name == "VTIMEZONE" && part.Find("TZID") is not null)
                    .GroupBy(part => part.Find("TZID")!.Value.Trim())
                    .Where(same => same.Count() > 1)
            )
                Tell(
                    same.Last().Number,
                    "3.6.5",
                    $"The zone {ICalendarReader.Short(same.Key)} is defined twice.",
                    "Keep one definition."
                );
            if (calendar.Find("VERSION") is { } version && version.Value.Trim() != "2.0")
                Tell(
                    version.Number,
                    "3.7.4",
                    $"The version is “{ICalendarReader.Short(version.Value)}”.",
                    "Write VERSION:2.0."
                );
            if (calendar.Find("CALSCALE") is { } scale && !Is(scale.Value, "GREGORIAN"))
                Tell(
                    scale.Number,
                    "3.7.1",
                    $"The calendar scale “{ICalendarReader.Short(scale.Value)}” is not defined.",
                    "Write CALSCALE:GREGORIAN."
                );
            if (calendar.Parts.Count == 0)
                Tell(
                    calendar.Number,
                    "3.6",
                    "The calendar has no component.",
                    "Put at least one event, zone or other component in."
                );
            Part(calendar, null, calendar.Find("METHOD") is not null);
            foreach (
                var same in calendar
                    .Parts.Where(part => part.Name is "VEVENT" or "VTODO" or "VJOURNAL" && part.Find("UID") is not null)
                    .GroupBy(part =>
                        (part.Name, part.Find("UID")!.Value.Trim(), part.Find("RECURRENCE-ID")?.Value.Trim())
                    )
                    .Where(same => same.Count() > 1)
            )
                Tell(
                    same.Last().Number,
                    "3.8.4.7",
                    $"{same.Count()} components have the UID {ICalendarReader.Short(same.Key.Item2)}{(same.Key.Item3 is null ? "" : " and one RECURRENCE-ID")}.",
                    "Give each its own UID, or keep the newest."
                );
        }

        private static bool Is(string value, string word) =>
            value.Trim().Equals(word, StringComparison.OrdinalIgnoreCase);

        private void Part(Component part, Component? within, bool hasMethod)
        {
            if (
                Homes.TryGetValue(part.Name, out var homes)
                && within is not null
                && !homes.Split(' ').Contains(within.Name)
            )
                Tell(
                    part.Number,
                    "3.6",
                    $"{part.Name} stands within {within.Name}.",
                    $"Put it within {homes.Replace(" ", " or ", StringComparison.Ordinal)}."
                );
            if (part.Name == "VCALENDAR" && within is not null)
                Tell(part.Number, "3.4", "A calendar stands within another.", "End the first before it.");
            if (Components.TryGetValue(part.Name, out var rules))
                Count(part, rules);
            foreach (var line in part.Lines)
                Line(part, line);
            switch (part.Name)
            {
                case "VEVENT":
                    Event(part, hasMethod);
                    break;
                case "VTODO":
                    Exclusive(part, "DUE", "3.6.2");
                    break;
                case "VTIMEZONE" when !part.Parts.Any(one => one.Name is "STANDARD" or "DAYLIGHT"):
                    Tell(
                        part.Number,
                        "3.6.5",
                        "The zone has neither STANDARD nor DAYLIGHT.",
                        "Say at least one offset."
                    );
                    break;
                case "STANDARD"
                or "DAYLIGHT"
                    when part.Find("DTSTART") is { } start
                        && ICalendarValues.Time(start.Value, null) is { } time
                        && (time.IsDate || time.Zone is not null || start.Parameter("TZID") is not null):
                    Tell(
                        start.Number,
                        "3.6.5",
                        "The onset is not a local time.",
                        "Write it without Z and without TZID."
                    );
                    break;
                case "VALARM":
                    Alarm(part);
                    break;
            }

            foreach (var one in part.Parts)
                Part(one, part, hasMethod);
        }

        private void Count(Component part, (string Section, string Once) rules)
        {
            foreach (var rule in rules.Once.Split(' '))
            {
                var name = rule.TrimStart('!');
                var lines = part.Lines.Where(line => line.Name == name).ToList();
                if (lines.Count == 0 && rule[0] == '!')
                    Tell(part.Number, rules.Section, $"{part.Name} has no {name}.", $"Add {name}.");
                if (lines.Count > 1)
                    Tell(lines[1].Number, rules.Section, $"{part.Name} has {name} {lines.Count} times.", "Keep one.");
            }

            foreach (var second in part.Lines.Where(line => line.Name == "RRULE").Skip(1))
                Tell(
                    second.Number,
                    rules.Section,
                    $"{part.Name} has a second RRULE.",
                    "Keep one; list the other dates as RDATE."
                );
        }

        private void Line(Component part, ContentLine line)
        {
            if (
                Properties.TryGetValue(line.Name, out var property)
                && Components.ContainsKey(part.Name)
                && !property.In.Split(' ').Contains(part.Name)
            )
                Tell(
                    line.Number,
                    property.Section,
                    $"{line.Name} stands in {part.Name}.",
                    $"It belongs into {property.In.Split(' ')[0]}; take it out."
                );
            foreach (
                var twice in line
                    .Parameters.GroupBy(one => one.Name)
                    .Where(same =>
                        same.Count() > 1
                        && same.Key
                            is "TZID"
                                or "VALUE"
                                or "ENCODING"
                                or "FMTTYPE"
                                or "LANGUAGE"
                                or "RANGE"
                                or "RELTYPE"
                                or "PARTSTAT"
                                or "ROLE"
                                or "CN"
                    )
            )
                Tell(line.Number, "3.2", $"{line.Name} has {twice.Key} more than once.", "Keep one.");
            switch (line.Name)
            {
                case "DTSTART" or "DTEND" or "DUE" or "RECURRENCE-ID" or "RDATE" or "EXDATE":
                    Times(line);
                    break;
                case "DTSTAMP" or "CREATED" or "LAST-MODIFIED" or "COMPLETED":
                    if (
                        ICalendarValues.Time(line.Value, null) is not { IsDate: false, Zone: not null }
                        || !line.Value.Trim().EndsWith('Z')
                    )
                        Tell(
                            line.Number,
                            line.Name switch
                            {
                                "DTSTAMP" => "3.8.7.2",
                                "CREATED" => "3.8.7.1",
                                "COMPLETED" => "3.8.2.1",
                                _ => "3.8.7.3",
                            },
                            $"{line.Name} is “{ICalendarReader.Short(line.Value)}”, no time in UTC.",
                            "Write it like 20261102T120000Z."
                        );
                    break;
                case "RRULE":
                    Rule(part, line);
                    break;
                case "DURATION":
                    if (ICalendarValues.Duration(line.Value) is not { } length)
                        Tell(
                            line.Number,
                            "3.3.6",
                            $"“{ICalendarReader.Short(line.Value)}” is no duration.",
                            "Write it like PT50M or P1D."
                        );
                    else if (part.Name is "VEVENT" or "VTODO" && (length.Days < 0 || length.Seconds < 0))
                        Tell(line.Number, "3.8.2.5", "The duration is negative.", "Write a positive one.");
                    break;
                case "TZOFFSETFROM" or "TZOFFSETTO":
                    if (ICalendarValues.OffsetOf(line.Value) is null || line.Value.Trim() is "-0000" or "-000000")
                        Tell(
                            line.Number,
                            "3.3.14",
                            $"“{ICalendarReader.Short(line.Value)}” is no offset.",
                            "Write it like -0400."
                        );
                    break;
                case "SEQUENCE" or "REPEAT":
                    Number(line, 0, int.MaxValue);
                    break;
                case "PRIORITY":
                    Number(line, 0, 9);
                    break;
                case "PERCENT-COMPLETE":
                    Number(line, 0, 100);
                    break;
                case "GEO":
                    if (
                        line.Value.Split(';') is not [var north, var east]
                        || !IsDegrees(north, 90)
                        || !IsDegrees(east, 180)
                    )
                        Tell(
                            line.Number,
                            "3.8.1.6",
                            $"“{ICalendarReader.Short(line.Value)}” is no place.",
                            "Write latitude;longitude in degrees: 44.65;-63.57."
                        );
                    break;
                case "STATUS":
                    if (
                        Statuses.TryGetValue(part.Name, out var statuses)
                        && !statuses.Split(' ').Any(one => Is(line.Value, one))
                    )
                        Tell(
                            line.Number,
                            "3.8.1.11",
                            $"“{ICalendarReader.Short(line.Value)}” is no status of {part.Name}.",
                            $"Write one of {statuses.Replace(" ", ", ", StringComparison.Ordinal)}."
                        );
                    break;
                case "TRANSP":
                    if (!Is(line.Value, "OPAQUE") && !Is(line.Value, "TRANSPARENT"))
                        Tell(
                            line.Number,
                            "3.8.2.7",
                            $"“{ICalendarReader.Short(line.Value)}” is no transparency.",
                            "Write OPAQUE or TRANSPARENT."
                        );
                    break;
                case "UID":
                    if (line.Value.Trim().Length == 0)
                        Tell(line.Number, "3.8.4.7", "The UID is empty.", "Give it one of its own.");
                    break;
            }

            if (Texts.Contains(line.Name))
                TextValue(line);
            if (Addresses.Contains(line.Name) && !Uri.TryCreate(line.Value.Trim(), UriKind.Absolute, out _))
                Tell(
                    line.Number,
                    "3.3.13",
                    $"{line.Name} is “{ICalendarReader.Short(line.Value)}”, no address.",
                    "Write it whole, with its scheme: https:, mailto: …"
                );
        }

        private static bool IsDegrees(string text, double most) =>
            double.TryParse(
                text.Trim(),
                NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint,
                CultureInfo.InvariantCulture,
                out var degrees
            )
            && Math.Abs(degrees) <= most;

        private void Number(ContentLine line, int least, int most)
        {
            if (
                !int.TryParse(
                    line.Value.Trim(),
                    NumberStyles.AllowLeadingSign,
                    CultureInfo.InvariantCulture,
                    out var number
                )
                || number < least
                || number > most
            )
                Tell(
                    line.Number,
                    "3.3.8",
                    $"{line.Name} is “{ICalendarReader.Short(line.Value)}”.",
                    most == int.MaxValue
                        ? $"Write a whole number from {least} up."
                        : $"Write a whole number from {least} to {most}."
                );
        }

        private void TextValue(ContentLine line)
        {
            // CATEGORIES and RESOURCES are lists: their commas are no text.
            var isList = line.Name is "CATEGORIES" or "RESOURCES";
            for (var at = 0; at < line.Value.Length; at++)
            {
                var letter = line.Value[at];
                if (letter == '\\')
                {
                    if (++at == line.Value.Length || line.Value[at] is not ('\\' or ';' or ',' or 'n' or 'N'))
                    {
                        Tell(
                            line.Number,
                            "3.3.11",
                            $"{line.Name} has a backslash that escapes nothing.",
                            "Write two of them for one."
                        );
                        return;
                    }
                }
                else if (letter == ';' || (letter == ',' && !isList))
                {
                    Tell(
                        line.Number,
                        "3.3.11",
                        $"{line.Name} has a {(letter == ';' ? "semicolon" : "comma")} that is not escaped.",
                        $"Write \\{letter} for it."
                    );
                    return;
                }
                else if (char.IsControl(letter) && letter != '\t')
                {
                    Tell(line.Number, "3.1", $"{line.Name} has a control character.", "Take it out.");
                    return;
                }
            }
        }

        private void Times(ContentLine line)
        {
            var isDate = line.Parameter("VALUE") is { } type && Is(type, "DATE");
            var isPeriod = line.Name == "RDATE" && line.Parameter("VALUE") is { } other && Is(other, "PERIOD");
            foreach (var value in line.Value.Split(','))
            {
                var parts = value.Split('/');
                if (
                    isPeriod
                    && (
                        parts.Length != 2
                        || ICalendarValues.Time(parts[0], null) is not { IsDate: false }
                        || (
                            ICalendarValues.Time(parts[1], null) is not { IsDate: false }
                            && ICalendarValues.Duration(parts[1]) is null
                        )
                    )
                )
                {
                    Tell(
                        line.Number,
                        "3.3.9",
                        $"“{ICalendarReader.Short(value)}” is no period.",
                        "Write its start, /, and its end or length."
                    );
                    continue;
                }

                if (isPeriod)
                    continue;
                if (ICalendarValues.Time(value, null) is not { } time)
                    Tell(
                        line.Number,
                        "3.3.5",
                        $"“{ICalendarReader.Short(value)}” is no date and no time.",
                        "Write it like 20261102T080000 or 20261102."
                    );
                else if (time.IsDate && !isDate)
                    Tell(
                        line.Number,
                        line.Name == "EXDATE" ? "3.8.5.1" : "3.3.4",
                        $"{line.Name} is a date, and does not say so.",
                        "Add ;VALUE=DATE."
                    );
                else if (!time.IsDate && isDate)
                    Tell(
                        line.Number,
                        "3.3.4",
                        $"{line.Name} says VALUE=DATE, and has a time.",
                        "Take the time or the parameter out."
                    );
                else if (!time.IsDate && value.Trim().TrimEnd('Z', 'z').Length != 15)
                    Tell(
                        line.Number,
                        "3.3.12",
                        $"“{ICalendarReader.Short(value)}” has no seconds.",
                        "Write all six digits of the time."
                    );
                if (ICalendarValues.Time(value, null) is { Zone: not null } && line.Parameter("TZID") is not null)
                    Tell(line.Number, "3.2.19", $"{line.Name} is in UTC and has a TZID, too.", "Keep one of both.");
            }

            if (line.Parameter("TZID") is { } zone)
            {
                if (isDate)
                    Tell(line.Number, "3.2.19", $"{line.Name} is a date and has a TZID.", "Take the TZID out.");
                else if (!zone.StartsWith('/') && !zones.Contains(zone.Trim()))
                    Tell(
                        line.Number,
                        "3.2.19",
                        $"The zone {ICalendarReader.Short(zone)} is not defined in the file.",
                        "Add its VTIMEZONE."
                    );
            }
        }

        private void Rule(Component part, ContentLine line)
        {
            var (rule, reason) = RuleText.Parse(line.Value.Trim());
            if (rule is null)
            {
                Tell(line.Number, "3.3.10", $"The rule cannot be: {reason}", "Mend it.");
                return;
            }

            if (part.Find("DTSTART") is not { } start || ICalendarValues.Time(start.Value, null) is not { } time)
                return;
            if (time.IsDate && rule.Frequency < Frequency.Daily)
                Tell(
                    line.Number,
                    "3.3.10",
                    $"The rule goes by {rule.Frequency.ToString().ToLowerInvariant()}, and DTSTART is a date.",
                    "Start it at a time."
                );
            if (rule.Until is not { } until)
                return;
            var hasZone =
                time.Zone is not null || start.Parameter("TZID") is not null || part.Name is "STANDARD" or "DAYLIGHT";
            if (until.IsDate != time.IsDate)
                Tell(
                    line.Number,
                    "3.3.10",
                    $"UNTIL is a {(until.IsDate ? "date" : "time")}, and DTSTART a {(time.IsDate ? "date" : "time")}.",
                    "Write both in the same form."
                );
            else if (!until.IsDate && hasZone != until.IsUtc)
                Tell(
                    line.Number,
                    "3.3.10",
                    hasZone ? "UNTIL is not in UTC." : "UNTIL is in UTC, and DTSTART is a time by any clock.",
                    hasZone ? "Write it in UTC, with a Z." : "Write it without Z."
                );
        }

        private void Event(Component part, bool hasMethod)
        {
            if (part.Find("DTSTART") is null && !hasMethod)
                Tell(
                    part.Number,
                    "3.6.1",
                    "VEVENT has no DTSTART.",
                    "Add it; only a calendar with a METHOD may do without."
                );
            Exclusive(part, "DTEND", "3.6.1");
            if (part.Find("DTSTART") is not { } start || ICalendarValues.Time(start.Value, null) is not { } begins)
                return;
            if (part.Find("DTEND") is { } end && ICalendarValues.Time(end.Value, null) is { } ends)
            {
                if (begins.IsDate != ends.IsDate)
                    Tell(
                        end.Number,
                        "3.8.2.2",
                        "DTEND is not of the type that DTSTART is.",
                        "Write both as dates, or both as times."
                    );
                else if (
                    (begins.Zone is null && start.Parameter("TZID") is null)
                        != (ends.Zone is null && end.Parameter("TZID") is null)
                    && !begins.IsDate
                )
                    Tell(
                        end.Number,
                        "3.8.2.2",
                        "One of DTSTART and DTEND is a time by any clock, and the other is not.",
                        "Give both a zone, or neither."
                    );
                else if (
                    start.Parameter("TZID") == end.Parameter("TZID")
                    && Equals(begins.Zone, ends.Zone)
                    && ends.Time <= begins.Time
                )
                    Tell(end.Number, "3.8.2.2", "DTEND is not after DTSTART.", "Leave it out where it takes no time.");
            }

            if (
                part.Find("DURATION") is { } lasts
                && begins.IsDate
                && ICalendarValues.Duration(lasts.Value) is { Seconds: not 0 }
            )
                Tell(lasts.Number, "3.6.1", "DTSTART is a date, and DURATION has hours.", "Write days or weeks.");
            if (part.Find("RECURRENCE-ID") is { } id && part.Find("RRULE") is { } rule)
                Tell(
                    rule.Number,
                    "3.8.5.3",
                    "One changed session has a rule of its own.",
                    "Take the rule, or the RECURRENCE-ID, out."
                );
            if (part.Find("RECURRENCE-ID")?.Parameter("RANGE") is { } range && !Is(range, "THISANDFUTURE"))
                Tell(
                    part.Find("RECURRENCE-ID")!.Number,
                    "3.2.13",
                    $"The range “{ICalendarReader.Short(range)}” is not defined.",
                    "Write THISANDFUTURE, or nothing."
                );
        }

        private void Exclusive(Component part, string end, string section)
        {
            if (part.Find(end) is not null && part.Find("DURATION") is { } length)
                Tell(length.Number, section, $"{part.Name} has both {end} and DURATION.", "Keep one of them.");
        }

        private void Alarm(Component part)
        {
            if ((part.Find("DURATION") is null) != (part.Find("REPEAT") is null))
                Tell(part.Number, "3.6.6", "The alarm has one of DURATION and REPEAT alone.", "Keep both or neither.");
            if (part.Find("TRIGGER") is { } trigger)
            {
                var isTime = trigger.Parameter("VALUE") is { } type && Is(type, "DATE-TIME");
                if (
                    isTime
                        ? ICalendarValues.Time(trigger.Value, null) is not { Zone: not null }
                        : ICalendarValues.Duration(trigger.Value) is null
                )
                    Tell(
                        trigger.Number,
                        "3.8.6.3",
                        $"“{ICalendarReader.Short(trigger.Value)}” is no trigger.",
                        isTime ? "Write a time in UTC." : "Write a length like -PT15M, or a time with VALUE=DATE-TIME."
                    );
            }

            foreach (
                var needed in part.Find("ACTION")?.Value.Trim().ToUpperInvariant() switch
                {
                    "DISPLAY" => (string[])["DESCRIPTION"],
                    "EMAIL" => ["DESCRIPTION", "SUMMARY", "ATTENDEE"],
                    _ => [],
                }
            )
                if (part.Find(needed) is null)
                    Tell(part.Number, "3.6.6", $"The alarm has no {needed}.", $"Add {needed}.");
        }
    }
}
