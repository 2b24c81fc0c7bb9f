using System.Globalization;
using System.Text.Json;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.JoinLinks;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Bulk;

/// <summary>
/// Does one thing to several calendars in one go, by the rules that hold for each of them, and takes it back in one. What it comes to is
/// told first: it is done, and not kept.
/// </summary>
public sealed class BulkChange(
    Gate gate,
    AlmanacDatabase database,
    Publications publications,
    RoomProviders rooms,
    IClock clock
)
{
    /// <summary>The most calendars at once.</summary>
    public const int Most = 500;

    /// <summary>The most that are listed to choose from.</summary>
    public const int MostShown = 300;

    /// <summary>The most calendars for which rooms are made at once: somebody waits for the provider.</summary>
    public const int MostRooms = 100;

    // How many rooms a provider is asked for at the same time.
    private const int RoomsAtOnce = 4;

    // The most people that a part of a name may mean.
    private const int MostTeachers = 20;

    /// <summary>The calendars that the viewer may change something of, to choose from.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="department">The slug of a department, "none" for calendars without one; empty for all.</param>
    /// <param name="words">Only those whose title holds this; empty for all.</param>
    /// <param name="teacher">Only those that somebody whose name begins so manages; empty for all.</param>
    public Outcome<BulkChoices> Choices(Viewer viewer, string department = "", string words = "", string teacher = "")
    {
        if (viewer.Person is null || viewer.LookedAtBy is not null)
            return new Outcome<BulkChoices>.NotAllowed();
        return database.Read<Outcome<BulkChoices>>(stores =>
        {
            if (stores.School.Find() is not { } school)
                return new Outcome<BulkChoices>.NotFound();
            CalendarId? within =
                department.Length == 0 ? null
                : Slug.TryParse(department, null, out var slug)
                && stores.Calendars.Find(slug) is { Kind: CalendarKind.Department } of
                    ? of.Id
                : default(CalendarId);
            IReadOnlyList<PersonId>? managers =
                teacher.Length == 0 ? null : [.. stores.People.Find(teacher, MostTeachers).Select(person => person.Id)];
            var kept = stores.Calendars.EditedBy(viewer, within, words, managers, MostShown + 1);
            var grants = stores.Calendars.GrantsOf([.. kept.Select(calendar => calendar.Id)]);
            var found = kept.Where(calendar =>
                    AccessRules.May(Permission.KeepNotices, AccessRules.LevelOf(viewer, grants[calendar.Id]))
                )
                .Take(MostShown)
                .ToList();
            var owners = stores.People.NamesOf([.. found.Select(calendar => calendar.Owner).Distinct()]);
            var departments = stores.Calendars.DepartmentsReachedBy(viewer, 500);
            var titles = departments.ToDictionary(one => one.Id, one => one.Title);
            return new Outcome<BulkChoices>.Done(
                new BulkChoices(
                    school,
                    [
                        .. found.Select(calendar => new BulkChoice(
                            calendar,
                            calendar.Department is { } id ? titles.GetValueOrDefault(id, "") : "",
                            owners.GetValueOrDefault(calendar.Owner, ""),
                            CalendarInput.OpenToOf(grants[calendar.Id])
                        )),
                    ],
                    kept.Count > MostShown,
                    departments,
                    Last(stores, viewer) is var (line, _) ? line.Summary : null
                )
                {
                    Provider = rooms.Provider?.Name,
                }
            );
        });
    }

    /// <summary>What doing it would come to.</summary>
    public Outcome<BulkReview> Review(Viewer viewer, BulkInput input) =>
        database.Write(stores => Run(stores, viewer, input, null), _ => false);

    /// <summary>Does it, where it comes to what the review said.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="input">The form.</param>
    /// <param name="cancellation">Ends the waiting for a provider of rooms.</param>
    public async Task<Outcome<BulkReview>> Do(Viewer viewer, BulkInput input, CancellationToken cancellation = default)
    {
        if (input.Action != BulkAction.Rooms)
            return Keep(viewer, input, null);
        var reviewed = Review(viewer, input);
        if (reviewed is not Outcome<BulkReview>.Done { Value: var review })
            return reviewed;
        if (rooms.Provider is not { } provider)
            return NoProvider<BulkReview>();
        // Before the write lock is taken, as a provider may be slow. Rooms that nothing came of go again, whatever ended it.
        var made = new System.Collections.Concurrent.ConcurrentDictionary<string, JoinTarget>();
        Outcome<BulkReview>? outcome = null;
        try
        {
            await Parallel.ForEachAsync(
                review.Lines.Where(line => line.IsChanged),
                new ParallelOptions { MaxDegreeOfParallelism = RoomsAtOnce, CancellationToken = cancellation },
                async (line, ends) => made[line.Text] = await rooms.Make(provider, line.Title, ends)
            );
            return outcome = Keep(viewer, input, made);
        }
        catch (RoomProviderException failure)
        {
            return Outcome.Because<BulkReview>("", failure.Message);
        }
        finally
        {
            if (outcome is not { IsDone: true })
                foreach (var target in made.Values)
                    await rooms.Retire(provider, target.Room, CancellationToken.None);
        }
    }

    private Outcome<BulkReview> Keep(Viewer viewer, BulkInput input, IReadOnlyDictionary<string, JoinTarget>? made) =>
        database.Write(
            stores =>
                Run(stores, viewer, input, made)
                    .Then(review =>
                        review.Seen != input.Seen ? new Outcome<BulkReview>.Stale(null)
                        : review.Changed == 0
                            ? Outcome.Because<BulkReview>("", "There is nothing to change. Nothing was changed.")
                        : input.Action == BulkAction.Delete
                        && (input.Count ?? "").Trim() != review.Changed.ToString(CultureInfo.InvariantCulture)
                            ? Outcome.Because<BulkReview>(
                                "Count",
                                $"Write {review.Changed}, how many they are, to delete them. Nothing was deleted."
                            )
                        : new Outcome<BulkReview>.Done(review)
                    ),
            outcome => outcome.IsDone
        );

    private static Outcome<T> NoProvider<T>() =>
        Outcome.Because<T>("Action", "There is no provider here that makes rooms. Paste the address of each.");

    /// <summary>Takes back what the viewer did last to several calendars; what somebody changed since stays.</summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Undo(Viewer viewer)
    {
        if (viewer.Person is not { } person || viewer.LookedAtBy is not null)
            return new Outcome<string>.NotAllowed();
        return database.Write<Outcome<string>>(
            stores =>
            {
                if (Last(stores, viewer) is not var (line, steps))
                    return Outcome.Because<string>("", "There is nothing of yours to take back.");
                var now = clock.GetCurrentInstant();
                var (back, kept) = (new HashSet<long>(), new HashSet<long>());
                foreach (var step in steps)
                    (Undo(stores, viewer, step) ? back : kept).Add(step.Calendar);
                kept.ExceptWith(back);
                var summary =
                    $"took back what was done to {Wording.Count(back.Count, "calendar", "calendars")} at once{(kept.Count > 0 ? $"; {kept.Count} stay as they are" : "")}";
                stores.History.Add(
                    now,
                    person,
                    null,
                    HistorySubject.School,
                    line.Id,
                    Operation.UndoBulkChange.Name,
                    summary,
                    null,
                    null
                );
                var left = kept.Count switch
                {
                    0 => "",
                    1 => " 1 was changed by somebody since, or is not yours to change any more, and stays as it is.",
                    var several =>
                        $" {several} were changed by somebody since, or are not yours to change any more, and stay as they are.",
                };
                return new Outcome<string>.Done(
                    $"{Wording.Count(back.Count, "calendar is", "calendars are")} as before.{left}"
                );
            },
            outcome => outcome.IsDone
        );
    }

    private static (HistoryLine Line, List<BulkStep> Steps)? Last(Stores stores, Viewer viewer) =>
        viewer.Person is { } person
        && stores.History.LastOf(Operation.BulkChange.Name, person) is var (line, before)
        && !stores.History.IsAfter(Operation.UndoBulkChange.Name, person, line.Id)
        && StepsOf(before) is { } steps
            ? (line, steps)
            : null;

    // A line that cannot be read is not taken back; what it did stands on each calendar.
    private static List<BulkStep>? StepsOf(string text)
    {
        try
        {
            return JsonSerializer.Deserialize<List<BulkStep>>(text);
        }
        catch (Exception spoiled) when (spoiled is JsonException or NotSupportedException)
        {
            return null;
        }
    }

    private Outcome<BulkReview> Run(
        Stores stores,
        Viewer viewer,
        BulkInput input,
        IReadOnlyDictionary<string, JoinTarget>? made
    )
    {
        if (viewer.Person is not { } person || viewer.LookedAtBy is not null || stores.School.Find() is null)
            return new Outcome<BulkReview>.NotAllowed();
        if (!Enum.IsDefined(input.Action))
            return Outcome.Because<BulkReview>("Action", "Choose what is to be done from the list.");
        var slugs = input.Chosen;
        if (slugs.Count == 0)
            return Outcome.Because<BulkReview>("Slugs", "Tick the calendars that are to be changed.");
        if (slugs.Count > Most)
            return Outcome.Because<BulkReview>(
                "Slugs",
                $"These are {slugs.Count} calendars; {Most} can be changed at once."
            );
        var entry = new FormReader();
        var run = new Running(input)
        {
            Entry = input.Action == BulkAction.Rule ? LinkReader.ReadRule(entry, input.Entry) : null,
            Into = input.Action == BulkAction.Department ? ReadDepartment(stores, viewer, entry, input) : null,
            Made = made,
        };
        if (input.Action == BulkAction.Rooms && rooms.Provider is null)
            return NoProvider<BulkReview>();
        if (input.Action == BulkAction.Rooms && slugs.Count > MostRooms)
            entry.Wrong("Slugs", $"These are {slugs.Count} calendars; rooms are made for {MostRooms} at once.");
        if (!entry.IsGood)
            return new Outcome<BulkReview>.Refused(entry.Problems);
        var lines = new List<BulkLine>();
        IReadOnlyList<Problem>? problems = null;
        var differ = false;
        foreach (var text in slugs)
        {
            var (line, refused) = One(stores, viewer, run, text);
            lines.Add(line);
            // What is wrong in the form is wrong for all of them in the same words.
            differ |= refused is null || (problems is not null && !problems.SequenceEqual(refused));
            problems ??= refused;
        }

        if (!differ && problems is { Count: > 0 } && problems.All(problem => problem.Field.Length > 0))
            return new Outcome<BulkReview>.Refused(problems);
        var count = lines.Count(line => line.IsChanged);
        var summary = $"{InWords(run)} {Wording.Count(count, "calendar", "calendars")} at once";
        if (run.Steps.Count > 0)
        {
            stores.History.Add(
                clock.GetCurrentInstant(),
                person,
                null,
                HistorySubject.School,
                1,
                Operation.BulkChange.Name,
                summary,
                JsonSerializer.Serialize(run.Steps),
                null,
                run.Person is { } named ? [named] : null
            );
            if (run is { Person: { } to, Told: { } told } && to != person)
                stores.Letters.Add(
                    count == 1 ? LetterKind.AccessGiven : LetterKind.SeveralGiven,
                    to,
                    told.Value,
                    clock.GetCurrentInstant()
                );
        }

        return new Outcome<BulkReview>.Done(new BulkReview(lines, summary));
    }

    // What is known of all of them while it is done to one after the other.
    private sealed record Running(BulkInput Input)
    {
        public EntryRule? Entry { get; init; }
        public Calendar? Into { get; init; }
        public IReadOnlyDictionary<string, JoinTarget>? Made { get; init; }
        public List<BulkStep> Steps { get; } = [];
        public HashSet<PersonId> Written { get; } = [];
        public Grantee? To { get; set; }
        public PersonId? Person { get; set; }
        public CalendarId? Told { get; set; }
        public string Who { get; set; } = "";
    }

    private static string InWords(Running run) =>
        run.Input.Action switch
        {
            BulkAction.Open => $"changed who may open",
            BulkAction.Give => $"gave {run.Who} access to",
            BulkAction.End => $"ended the access of {run.Who} to",
            BulkAction.Rooms => "made a room for",
            BulkAction.Rule => "gave one rule to the join links of",
            BulkAction.Feed => "made a feed of",
            BulkAction.Embed => "made an embed of",
            BulkAction.Pause => "paused what is published of",
            BulkAction.Resume => "resumed what is published of",
            BulkAction.Notice => "put up a notice on",
            BulkAction.Department => run.Into is { } department
                ? $"moved to {department.Title}:"
                : "took out of their departments",
            BulkAction.Archive => "archived",
            _ => "deleted",
        };

    private (BulkLine Line, IReadOnlyList<Problem>? Problems) One(
        Stores stores,
        Viewer viewer,
        Running run,
        string text
    )
    {
        var operation = OperationOf(run.Input.Action);
        var entered = Slug.TryParse(text, null, out var slug)
            ? gate.Enter(stores, operation, viewer, slug)
            : new Outcome<AtCalendar>.NotFound();
        if (entered is Outcome<AtCalendar>.NotFound)
            return (new BulkLine(text, text, "there is no such calendar any more", false), null);
        if (entered is not Outcome<AtCalendar>.Done { Value: var at })
            return (
                new BulkLine(
                    stores.Calendars.Find(slug)!.Title,
                    text,
                    "this is not yours to do there: ask its managers",
                    false
                ),
                null
            );
        if (!at.Calendar.IsInUse)
            return (new BulkLine(at.Calendar.Title, text, "it is not in use any more", false), null);
        var before = run.Steps.Count;
        var done = run.Input.Action switch
        {
            BulkAction.Open => Open(at, run),
            BulkAction.Give or BulkAction.End => Access(at, run),
            BulkAction.Rooms => Room(at, run),
            BulkAction.Rule => Rule(at, run),
            BulkAction.Feed or BulkAction.Embed => Publish(at, run),
            BulkAction.Pause or BulkAction.Resume => Pause(at, run),
            BulkAction.Notice => Notice(at, run),
            BulkAction.Department => Move(at, run),
            _ => Use(at, run),
        };
        return done switch
        {
            Outcome<string>.Done { Value: var said } => (
                new BulkLine(at.Calendar.Title, text, said, run.Steps.Count > before),
                null
            ),
            Outcome<string>.Refused { Problems: var problems } => (
                new BulkLine(at.Calendar.Title, text, problems[0].Message, false),
                problems
            ),
            _ => (new BulkLine(at.Calendar.Title, text, "this is not yours to do there", false), null),
        };
    }

    private static Operation OperationOf(BulkAction action) =>
        action switch
        {
            BulkAction.Open or BulkAction.Department => Operation.ChangeCalendar,
            BulkAction.Give => Operation.GiveAccess,
            BulkAction.End => Operation.EndAccess,
            BulkAction.Rule or BulkAction.Rooms => Operation.AddJoinLink,
            BulkAction.Feed or BulkAction.Embed or BulkAction.Pause or BulkAction.Resume => Operation.MakePublication,
            BulkAction.Notice => Operation.PutNoticeUp,
            BulkAction.Archive => Operation.ArchiveCalendar,
            _ => Operation.DeleteCalendar,
        };

    private static Outcome<string> Same(string said) => new Outcome<string>.Done(said);

    private static Outcome<string> Open(AtCalendar at, Running run)
    {
        var openTo = run.Input.OpenTo;
        if (!Enum.IsDefined(openTo))
            return Outcome.Because<string>("OpenTo", "Choose who may open them.");
        var links =
            openTo == OpenTo.Anyone
                ? 0
                : at
                    .Stores.JoinLinks.Of(at.Calendar.Id)
                    .Count(link => link.Audience == EntryAudience.Anyone && !link.LeadsNowhere);
        var lets =
            links == 0
                ? ""
                : $"; {Wording.Count(links, "join link lets", "join links let")} anyone in who has the address";
        if (CalendarInput.OpenToOf(at.Context.Grants) == openTo)
            return Same($"open to {WordOf(openTo)} already{lets}");
        var before = StatesOf(at);
        SaveCalendar.Open(at.Stores, at.Calendar.Id, openTo);
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(HistorySubject.Calendar, at.Calendar.Id.Value, $"opened {at.Calendar.Title} to {WordOf(openTo)}");
        run.Steps.Add(new BulkStep.Access(at.Calendar.Id.Value, before, StatesOf(at), [], [], 0));
        return Same($"open to {WordOf(openTo)}{lets}");
    }

    private static string WordOf(OpenTo openTo) =>
        openTo switch
        {
            OpenTo.Anyone => "anyone",
            OpenTo.Everyone => "everyone of the school",
            _ => "who is named alone",
        };

    private static List<GrantState> StatesOf(AtCalendar at) =>
        [.. at.Stores.Calendars.GrantsOf(at.Calendar.Id).Select(GrantState.Of)];

    private static List<long> HostedBy(AtCalendar at, PersonId? person) =>
        person is { } host
            ?
            [
                .. at
                    .Stores.JoinLinks.Of(at.Calendar.Id)
                    .Where(link => link.Hosts.Contains(host))
                    .Select(link => link.Id.Value),
            ]
            : [];

    private static Outcome<string> Access(AtCalendar at, Running run)
    {
        // Looked for once: the same words mean the same person on every calendar.
        if (run.To is null)
        {
            var entry = new FormReader();
            run.To = Share.ReadWho(at, entry, run.Input.Who ?? "");
            if (run.To is null || !entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            run.Who = Share.NameOf(at.Stores, run.To);
        }

        var to = run.To;
        var person = to is Grantee.OnePerson one ? one.Person : (PersonId?)null;
        run.Person = person;
        var (before, hosts) = (StatesOf(at), HostedBy(at, person));
        var had = before.Find(state => state.Key == Share.KeyOf(to))?.Level ?? AccessLevel.None;
        if (run.Input.Action == BulkAction.End && had == AccessLevel.None)
            return Same($"{run.Who} has no access of their own there");
        // Who has it already is left as they are, without a line of history.
        if (
            run.Input.Action == BulkAction.Give
            && Share.Has(at, to, new GiveInput(Share.KeyOf(to), run.Input.Level, run.Input.Until))
        )
            return Same("they have that already");
        var done =
            run.Input.Action == BulkAction.End
                ? Share.End(at, to)
                : Share.Give(at, new GiveInput(Share.KeyOf(to), run.Input.Level, run.Input.Until), tells: false);
        if (done is not Outcome<GrantedAccess>.Done { Value: var given })
            return done.Select(_ => "");
        var (after, hostsAfter) = (StatesOf(at), HostedBy(at, person));
        var has = after.Find(state => state.Key == Share.KeyOf(to));
        if (has?.Level > had)
            run.Told ??= at.Calendar.Id;
        run.Steps.Add(new BulkStep.Access(at.Calendar.Id.Value, before, after, hosts, hostsAfter, person?.Value ?? 0));
        return Same(
            has is null
                ? given.Said
                : $"{AccessPhrases.NameOf(has.Level)}{(hostsAfter.Count > hosts.Count ? ", and host of its links" : "")}{(has.Until is { } until ? $", until {until}" : "")}{(had == AccessLevel.None ? "" : $"; was {AccessPhrases.NameOf(had)}")}"
        );
    }

    private Outcome<string> Room(AtCalendar at, Running run)
    {
        var stores = at.Stores;
        if (
            stores
                .JoinLinks.Of(at.Calendar.Id)
                .Concat(stores.JoinLinks.UsedOn(at.Calendar.Id))
                .Any(link => !link.LeadsNowhere)
        )
            return Same("it has a join link already");
        var waiting = stores.Series.Of(at.Calendar.Id).Where(series => series.JoinLink is null).ToList();
        var told = waiting.Count == 0 ? "a room" : $"a room, for {Wording.Count(waiting.Count, "series", "series")}";
        // What is looked at alone has no room yet; one that came to be without since gets none.
        if (run.Made is not null && !run.Made.ContainsKey(at.Calendar.Slug.Value))
            return new Outcome<string>.Stale(null);
        var target = run.Made?[at.Calendar.Slug.Value] ?? new JoinTarget(new Uri("https://room.invalid/"));
        var link = EditJoinLinks.Make(at, at.Calendar.ShortTitle, target, rooms.Reach);
        foreach (var series in waiting)
            if (
                !new AtSeries(at with { Operation = Operation.ChangeSeries }, series).Store(
                    series with
                    {
                        JoinLink = link.Id,
                    },
                    $"gave {series.Title} the join link {link.Name}"
                )
            )
                return new Outcome<string>.Stale(null);
        run.Steps.Add(
            new BulkStep.MadeLink(
                at.Calendar.Id.Value,
                link.Id.Value,
                [.. waiting.Select(series => new SeriesVersion(series.Id.Value, series.Version + 1))]
            )
        );
        return Same(told);
    }

    private static Outcome<string> Rule(AtCalendar at, Running run)
    {
        var links = at.Stores.JoinLinks.Of(at.Calendar.Id).Where(link => !link.LeadsNowhere).ToList();
        if (links.Count == 0)
            return Same("it has no join link");
        var rule = run.Entry!;
        var changed = 0;
        foreach (var link in links.Where(link => link.Entry != rule || link.CannotBeRead is not null))
        {
            if (!at.Stores.JoinLinks.Change(link with { Entry = rule, CannotBeRead = null }, link.Version, at.Now))
                return new Outcome<string>.Stale(null);
            (at with { Operation = Operation.ChangeJoinLink }).Note(
                HistorySubject.JoinLink,
                link.Id.Value,
                $"gave {link.Name} the rule: {rule.InWords}"
            );
            run.Steps.Add(
                new BulkStep.Rule(at.Calendar.Id.Value, link.Id.Value, DoorText.Write(link.Entry), DoorText.Write(rule))
            );
            changed++;
        }

        return Same(
            changed == 0
                ? "its join links have that rule already"
                : $"{Wording.Count(changed, "join link", "join links")}: {rule.InWords}"
        );
    }

    private Outcome<string> Publish(AtCalendar at, Running run)
    {
        var (input, isFeed) = (run.Input, run.Input.Action == BulkAction.Feed);
        var kind = isFeed ? PublicationKind.Feed : PublicationKind.Embed;
        // Once done, done: a second round makes none beside one that shows as much.
        if (
            at
                .Stores.Publications.Of(at.Calendar.Id)
                .Any(one =>
                    one.Kind == kind
                    && one.PausedAt is null
                    && one.Level == input.Shows
                    && one.Scope == PublicationScope.Calendar
                    && one.Others.Length == 0
                    && (isFeed ? one.IsOffered || !input.Offered : one.Options.Shape == input.Shape)
                )
        )
            return Same($"it has {(isFeed ? "a feed" : "an embed")} of that kind already");
        return publications
            .Make(
                at,
                kind,
                new PublicationInput(
                    "",
                    input.Shows,
                    Descriptions: input.Shows == AccessLevel.Full,
                    Materials: false,
                    JoinLinks: false,
                    input.Sites,
                    input.Offered
                )
                {
                    Shape = input.Shape,
                    Reminder = isFeed
                        ? at.Stores.School.DefaultsOn(at.Calendar).FeedReminder?.ToString(CultureInfo.InvariantCulture)
                        : "",
                }
            )
            .Select(made =>
            {
                run.Steps.Add(new BulkStep.Publication(at.Calendar.Id.Value, made.Outlet.Id.Value));
                return isFeed ? "a feed of its own" : "an embed of its own";
            });
    }

    private Outcome<string> Pause(AtCalendar at, Running run)
    {
        var pauses = run.Input.Action == BulkAction.Pause;
        var these = at.Stores.Publications.Of(at.Calendar.Id).Where(one => (one.PausedAt is null) == pauses).ToList();
        if (these.Count == 0)
            return Same(pauses ? "nothing of it is published" : "nothing of it is paused");
        foreach (var one in these)
        {
            var done = publications.Pause(
                new AtPublication(at with { Operation = Operation.PausePublication }, one),
                pauses
            );
            if (done is not Outcome<PublicationWithToken>.Done { Value: var after })
                return done.Select(_ => "");
            run.Steps.Add(new BulkStep.Paused(at.Calendar.Id.Value, one.Id.Value, pauses, after.Outlet.Version));
        }

        return Same(
            $"{Wording.Count(these.Count, "address", "addresses")} {(pauses ? "paused" : "resumed")}: {Wording.List([.. these.Select(one => one.Name)])}"
        );
    }

    private static Outcome<string> Notice(AtCalendar at, Running run)
    {
        var written = run.Written.Count;
        return EditNotices
            .Put(
                at,
                null,
                new NoticeInput(run.Input.Text, "", run.Input.Last, ByMail: run.Input.ByMail)
                {
                    Headline = run.Input.Headline,
                },
                run.Written
            )
            .Select(notice =>
            {
                run.Steps.Add(new BulkStep.Notice(at.Calendar.Id.Value, notice.Id.Value, notice.Version));
                return run.Input.ByMail
                    ? $"a notice {Wording.Days(notice.First, notice.Last)}, and to {Wording.Count(run.Written.Count - written, "person", "people")} by e-mail"
                    : $"a notice {Wording.Days(notice.First, notice.Last)}";
            });
    }

    private static Calendar? ReadDepartment(Stores stores, Viewer viewer, FormReader entry, BulkInput input)
    {
        var wanted = (input.Department ?? "").Trim();
        var department = SaveCalendar.DepartmentFor(
            stores,
            viewer,
            Slug.TryParse(wanted, null, out var slug) ? slug : null
        );
        if (department is null && wanted.Length > 0)
            entry.Wrong("Department", "Choose a department from the list, or none.");
        return department;
    }

    private static Outcome<string> Move(AtCalendar at, Running run)
    {
        var department = run.Into;
        if (at.Calendar.Kind != CalendarKind.Class)
            return Same("it is no class: only classes belong to a department");
        if (at.Calendar.Department == department?.Id)
            return Same(department is null ? "it is in no department" : $"it is in {department.Title} already");
        var id = at.Calendar.Id;
        if (
            !at.Stores.Calendars.Change(
                at.Calendar with
                {
                    Department = department?.Id,
                    ChangedAt = at.Now,
                },
                at.Calendar.Version
            )
        )
            return new Outcome<string>.Stale(null);
        var where = department is null ? "out of its department" : $"to {department.Title}";
        at.Note(HistorySubject.Calendar, id.Value, $"moved {at.Calendar.Title} {where}");
        run.Steps.Add(new BulkStep.Department(id.Value, at.Calendar.Department?.Value, department?.Id.Value));
        return Same($"moved {where}");
    }

    private static Outcome<string> Use(AtCalendar at, Running run)
    {
        var deletes = run.Input.Action == BulkAction.Delete;
        var word = deletes ? "deleted" : "archived";
        return SaveCalendar
            .SetUse(
                at,
                deletes ? at.Calendar.ArchivedAt : at.Now,
                deletes ? at.Now : null,
                $"{word} the calendar {at.Calendar.Title}"
            )
            .Select(after =>
            {
                run.Steps.Add(new BulkStep.Use(at.Calendar.Id.Value, after.Version));
                return deletes ? "deleted; it can be brought back for a month" : "archived; it can be brought back";
            });
    }

    // Whether it is as it was before.
    private bool Undo(Stores stores, Viewer viewer, BulkStep step)
    {
        var id = new CalendarId(step.Calendar);
        if (stores.Calendars.FindById(id) is not { } calendar)
            return false;
        AtCalendar? Enter(Operation operation) =>
            gate.Enter(stores, operation, viewer, calendar.Slug) is Outcome<AtCalendar>.Done { Value: var at }
                ? at
                : null;
        switch (step)
        {
            case BulkStep.Access access when Enter(Operation.GiveAccess) is { Calendar.IsInUse: true } at:
                return Undo(at, access);
            case BulkStep.Rule rule when Enter(Operation.AddJoinLink) is { Calendar.IsInUse: true } at:
            {
                var link = stores.JoinLinks.Of(id).FirstOrDefault(one => one.Id.Value == rule.Link);
                if (link is null || DoorText.Write(link.Entry) != rule.After)
                    return false;
                var before = DoorText.ReadEntry(rule.Before);
                if (!stores.JoinLinks.Change(link with { Entry = before }, link.Version, at.Now))
                    return false;
                (at with { Operation = Operation.UndoRule }).Note(
                    HistorySubject.JoinLink,
                    link.Id.Value,
                    $"took the rule of {link.Name} back: {before.InWords}"
                );
                return true;
            }
            case BulkStep.MadeLink made when Enter(Operation.AddJoinLink) is { Calendar.IsInUse: true } at:
            {
                // Where somebody put another room behind it, or another series uses it by now, it stays.
                var link = stores.JoinLinks.Of(id).FirstOrDefault(one => one.Id.Value == made.Id && !one.LeadsNowhere);
                var users = link is null ? [] : stores.Series.Of(id).Where(one => one.JoinLink == link.Id).ToList();
                if (
                    link is not { Version: 1 }
                    || users.Exists(one => !made.Series.Contains(new SeriesVersion(one.Id.Value, one.Version)))
                )
                    return false;
                foreach (var series in users)
                    if (
                        !new AtSeries(at with { Operation = Operation.ChangeSeries }, series).Store(
                            series with
                            {
                                JoinLink = null,
                            },
                            $"took the join link {link.Name} from {series.Title} again"
                        )
                    )
                        return false;
                return gate.Enter(stores, Operation.WithdrawJoinLink, viewer, link.Code)
                    .Then(entered => EditJoinLinks.SetWithdrawn(entered, withdrawn: true))
                    .IsDone;
            }
            case BulkStep.Publication made when Enter(Operation.RevokePublication) is { } at:
                return stores.Publications.Find(new PublicationId(made.Id)) is { Version: 1 } one
                    && publications.Revoke(new AtPublication(at, one)).IsDone;
            case BulkStep.Paused paused when Enter(Operation.PausePublication) is { } at:
                return stores.Publications.Find(new PublicationId(paused.Id)) is { } outlet
                    && outlet.Version == paused.Version
                    && publications.Pause(new AtPublication(at, outlet), !paused.After).IsDone;
            case BulkStep.Notice put when Enter(Operation.TakeNoticeDown) is { } at:
                return EditNotices.SetDown(at, new NoticeId(put.Id), down: true, put.Version).IsDone;
            case BulkStep.Department moved when Enter(Operation.ChangeCalendar) is { Calendar.IsInUse: true } at:
            {
                CalendarId? before = moved.Before is { } back ? new CalendarId(back) : null;
                if (
                    calendar.Department?.Value != moved.After
                    || (before is { } of && stores.Calendars.FindById(of) is not { IsInUse: true })
                    || !stores.Calendars.Change(
                        calendar with
                        {
                            Department = before,
                            ChangedAt = at.Now,
                        },
                        calendar.Version
                    )
                )
                    return false;
                at.Note(HistorySubject.Calendar, id.Value, $"moved {calendar.Title} back");
                return true;
            }
            case BulkStep.Use use when Enter(Operation.BringBackCalendar) is { } at:
                return calendar.Version == use.Version
                    && SaveCalendar.SetUse(at, null, null, $"brought the calendar {calendar.Title} back").IsDone;
            default:
                return false;
        }
    }

    private static bool Undo(AtCalendar at, BulkStep.Access access)
    {
        var now = at.Context.Grants.ToDictionary(grant => Share.KeyOf(grant.To), GrantState.Of);
        var (before, after) = (
            access.Before.ToDictionary(state => state.Key),
            access.After.ToDictionary(state => state.Key)
        );
        var changed = before
            .Keys.Union(after.Keys)
            .Where(key => before.GetValueOrDefault(key) != after.GetValueOrDefault(key))
            .ToList();
        // All of it, or none: half of an opening is neither.
        if (changed.Exists(key => now.GetValueOrDefault(key) != after.GetValueOrDefault(key)))
            return false;
        var person = new PersonId(access.Person);
        if (access.Person != 0 && at.Stores.People.Find(person) is null)
            return false;
        var next = at
            .Context.Grants.Where(grant => !changed.Contains(Share.KeyOf(grant.To)))
            .Concat(
                changed.Where(before.ContainsKey).Select(key => before[key].On(at.Calendar.Id, Share.GranteeOf(key)!))
            )
            .ToList();
        if (!People.EditPeople.Managed(at.Stores, next))
            return false;
        foreach (var key in changed)
            if (before.TryGetValue(key, out var state))
                at.Stores.Calendars.Set(state.On(at.Calendar.Id, Share.GranteeOf(key)!), at.Person);
            else
                at.Stores.Calendars.Remove(at.Calendar.Id, Share.GranteeOf(key)!);
        foreach (var link in access.HostsBefore.Except(access.HostsAfter))
            at.Stores.JoinLinks.AddHost(new JoinLinkId(link), person);
        foreach (var link in access.HostsAfter.Except(access.HostsBefore))
            at.Stores.JoinLinks.RemoveHost(new JoinLinkId(link), person);
        at.Stores.Calendars.Touch(at.Calendar.Id, at.Now);
        at.Note(
            HistorySubject.Calendar,
            at.Calendar.Id.Value,
            "took a change of who has access back",
            named: access.Person == 0 ? null : [person]
        );
        return true;
    }
}
