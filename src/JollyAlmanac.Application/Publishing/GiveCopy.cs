using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats.ICalendar;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>Whom a copy goes to by mail.</summary>
public enum CopyTo
{
    /// <summary>Whoever makes it, to pass on.</summary>
    Me,

    /// <summary>Those who read the calendar in full, or some of them.</summary>
    Readers,

    /// <summary>Addresses outside the school.</summary>
    Others,
}

/// <summary>What the form of a copy says, as typed.</summary>
/// <param name="Level">busy, outline or full.</param>
/// <param name="First">The first day, ISO.</param>
/// <param name="Last">The last day, ISO.</param>
/// <param name="To">Whom it goes to by mail.</param>
/// <param name="Says">A word that goes with it.</param>
/// <param name="Only">The only readers it goes to, as <see cref="AudienceInput"/> has them.</param>
/// <param name="OnlyOthers">E-mail addresses of others of them.</param>
public sealed record CopyInput(
    AccessLevel Level = AccessLevel.Full,
    string? First = "",
    string? Last = "",
    CopyTo To = CopyTo.Me,
    string? Says = "",
    IReadOnlyList<string>? Only = null,
    string? OnlyOthers = ""
)
{
    /// <summary>The e-mail addresses of <see cref="CopyTo.Others"/>.</summary>
    public string? Addresses { get; init; } = "";
}

/// <summary>
/// Gives a copy of the sessions of some days, as a file or by mail. It does not follow changes, and says so, in every session, with where
/// the live one is.
/// </summary>
public sealed class GiveCopy(Gate gate)
{
    private const int LongestWord = 1_000;

    // A letter of the school to strangers: enough for a partner class, too few for a mailing.
    private const int MostOthers = 20;

    // And so many of one person’s in a day.
    private const int MostOthersInADay = 100;

    /// <summary>A copy as a file.</summary>
    /// <param name="viewer">Who makes it.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="input">The form.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <returns>The iCalendar document.</returns>
    public Outcome<string> Do(Viewer viewer, Slug slug, CopyInput input, Uri root) =>
        gate.Write<string>(Operation.CopyCalendar, viewer, slug, at =>
        {
            var entry = new FormReader();
            if (Read(entry, at, input) is not { } copy)
                return new Outcome<string>.Refused(entry.Problems);
            if (Document(at.Stores, at.School, at.Calendar, copy, root, at.Today, at.Now) is not { } document)
                return NoSession<string>();
            at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, $"made a copy of {InWords(copy)}");
            return new Outcome<string>.Done(document);
        });

    /// <summary>Sends a copy by mail. It is made when the letter goes.</summary>
    /// <returns>How many people it goes to.</returns>
    public Outcome<int> Send(Viewer viewer, Slug slug, CopyInput input) =>
        gate.Write<int>(Operation.SendCopy, viewer, slug, at =>
        {
            var entry = new FormReader();
            var copy = Read(entry, at, input);
            var says = entry.Lines("Says", input.Says, "The word", LongestWord);
            var others = input.To == CopyTo.Others ? ReadOthers(entry, input.Addresses) : [];
            var only =
                input.To != CopyTo.Readers
                    ? null
                    : AudienceReader.Read(
                        entry,
                        "Only",
                        new AudienceInput(input.Only, input.OnlyOthers),
                        at.Stores,
                        at.Context.Grants,
                        null
                    );
            if (!entry.IsGood || copy is null)
                return new Outcome<int>.Refused(entry.Problems);
            List<Person> people =
                input.To != CopyTo.Readers
                    ? [.. at.Stores.People.Of([at.Person])]
                    :
                    [
                        .. Reader
                            .Of(at.Stores, at.Context.Grants)
                            .Where(reader => reader.IsFor(only, at.Calendar.Id))
                            .Select(reader => reader.Person),
                    ];
            people = [.. people.Where(person => person.Email is not null)];
            if (people.Count == 0)
                return Outcome.Because<int>(
                    "To",
                    input.To != CopyTo.Readers
                        ? "You have no e-mail address here. Give yourself one under your account."
                        : "Nobody of these has an e-mail address here."
                );
            if (
                others.Count > 0
                && at.Stores.Copies.SentOutside(at.Person, at.Now - Duration.FromDays(1)) + others.Count
                    > MostOthersInADay
            )
                return Outcome.Because<int>(
                    "Addresses",
                    $"You may send {MostOthersInADay} copies outside the school in a day. Publish a feed, or send these tomorrow."
                );
            if (
                Document(at.Stores, at.School, at.Calendar, copy, new Uri("https://almanac.invalid/"), at.Today, at.Now)
                is null
            )
                return NoSession<int>();
            if (input.To == CopyTo.Others)
                foreach (var address in others)
                    at.Stores.Letters.Add(
                        LetterKind.Copy,
                        at.Person,
                        at.Stores.Copies.Add(copy with { Says = says, Address = address }),
                        at.Now
                    );
            else
            {
                var id = at.Stores.Copies.Add(copy with { Says = says });
                foreach (var person in people)
                    at.Stores.Letters.Add(LetterKind.Copy, person.Id, id, at.Now);
            }

            var count = input.To == CopyTo.Others ? others.Count : people.Count;
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                $"sent a copy of {InWords(copy)} to {(input.To switch { CopyTo.Me => "themselves", CopyTo.Others => Wording.Count(count, "address outside the school", "addresses outside the school"), _ => Wording.Count(count, "person", "people") })}"
            );
            return new Outcome<int>.Done(count);
        });

    private static List<EmailAddress> ReadOthers(FormReader entry, string? text)
    {
        var list = Core.Parsing.AddressList.Read(entry.Bounded("Addresses", text, "The list of addresses", 5_000));
        foreach (var problem in list.Problems.Take(FormReader.MostOfOne))
            entry.Wrong("Addresses", problem.Sentence);
        var addresses = list.People.Select(one => one.Address).Distinct().ToList();
        if (addresses.Count == 0 && !entry.Has("Addresses"))
            entry.Wrong("Addresses", "Write the e-mail addresses it goes to.");
        if (addresses.Count > MostOthers)
            entry.Wrong(
                "Addresses",
                $"These are {addresses.Count} addresses; a copy goes to {MostOthers} at most. Publish a feed for more."
            );
        return addresses;
    }

    private static Outcome<T> NoSession<T>() => Outcome.Because<T>("First", "There is no session on these days.");

    private static string InWords(CalendarCopy copy) =>
        $"{Wording.WithYear(copy.First)} to {Wording.WithYear(copy.Last)}: {copy.Level.ToString().ToLowerInvariant()}";

    private static CalendarCopy? Read(FormReader entry, AtCalendar at, CopyInput input)
    {
        var (first, last) = (
            entry.Day("First", input.First, "The first day"),
            entry.Day("Last", input.Last, "The last day")
        );
        if (!Publication.MayHave(input.Level, at.Context.Level))
            entry.Wrong("Level", "Choose what it shows: busy times, an outline, or everything.");
        if (last < first)
            entry.Wrong("Last", "The last day is before the first.");
        if (!Enum.IsDefined(input.To))
            entry.Wrong("To", "Choose whom it goes to.");
        return !entry.IsGood || first is not { } from || last is not { } to
            ? null
            : new CalendarCopy(at.Calendar.Id, input.Level, from, to, "", at.Person, at.Now);
    }

    // Null where there is no session on its days.
    private static string? Document(
        Stores stores,
        School school,
        Calendar calendar,
        CalendarCopy copy,
        Uri root,
        LocalDate today,
        Instant now
    )
    {
        var (day, live) = (Wording.WithYear(today), new Uri(root, $"c/{calendar.Slug}"));
        var says = $"A copy of {day}. It does not follow changes; what is so now stands at {live}";
        var content = ReadFeed.Content(
            CalendarFacts.Read(stores, calendar.Id),
            school,
            calendar,
            copy.Level,
            ShowChoices.Anyone,
            now,
            root,
            session => ExportCalendar.Within(session, copy.First, copy.Last.PlusDays(1))
        );
        return content.Entries.IsEmpty
            ? null
            : FeedDocument.Of(
                content with
                {
                    Name = $"{calendar.Title} (copy of {day})",
                    Says = says,
                    Footnote = says,
                }
            );
    }

    /// <summary>What a letter with a copy says, and the copy; null where its maker may not give it any more, its reader may not read it, or
    /// there is no session on its days.</summary>
    internal static (string Subject, string Text, LetterFile File)? Compose(
        Stores stores,
        QueuedLetter letter,
        Person to,
        School school,
        Uri root,
        Instant now
    )
    {
        if (
            stores.Copies.Find(letter.About) is not { } copy
            || stores.Calendars.Get(copy.Calendar) is not { IsInUse: true } calendar
        )
            return null;
        var grants = stores.Calendars.GrantsOf(calendar.Id);
        AccessLevel LevelOf(PersonId person) => AccessRules.LevelOf(stores.People.ViewerOf(person), grants);
        var maker = LevelOf(copy.MadeBy);
        if (
            !AccessRules.May(Permission.Publish, maker)
            || !Publication.MayHave(copy.Level, maker)
            || !AccessRules.May(Permission.SeeDetails, LevelOf(to.Id))
            || Document(stores, school, calendar, copy, root, now.InZone(school.Time.Zone).Date, now)
                is not { } document
        )
            return null;
        var by =
            to.Id == copy.MadeBy && copy.Address is null
                ? "You asked for"
                : $"{stores.People.NamesOf([copy.MadeBy]).GetValueOrDefault(copy.MadeBy, school.Name)} sends you";
        return (
            $"{calendar.Title}, {Wording.Days(copy.First, copy.Last)}",
            $"{by} {calendar.Title}, {Wording.WithYear(copy.First)} to {Wording.WithYear(copy.Last)}, as a file for a calendar program.{(copy.Says.Length > 0 ? $"\n\n{copy.Says}" : "")}\n\nIt is a copy as of this letter, and does not follow changes. What is so now stands here:\n{new Uri(root, $"c/{calendar.Slug}")}",
            new LetterFile($"{calendar.Slug}-copy.ics", document)
        );
    }
}
