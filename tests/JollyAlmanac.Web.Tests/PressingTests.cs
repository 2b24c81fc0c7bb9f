using System.Collections.Concurrent;
using System.Net;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using JollyAlmanac.Demo;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;

namespace JollyAlmanac.Web.Tests;

/// <summary>
/// Every button of every page is pressed, as each kind of person: from a fresh page, with what stands in its form. And the other way
/// round: what a page can do, somebody's button does.
/// </summary>
public sealed partial class PressingTests
{
    // What takes something away is pressed when all else was.
    private static readonly string[][] Destroys =
    [
        [
            "handler=end",
            "handler=down",
            "notaway",
            "withdraw",
            "revoke",
            "remove",
            "takeoff",
            "takeout",
            "takegroup",
            "drop",
            "forget",
            "leave",
            "restore",
            "undo",
        ],
        ["delete", "putaway", "erase", "people/*?handler=end"],
        ["sign-out"],
    ];

    // Days, weeks and pages of lists go on for ever; so many of each shape stand for them.
    private const int OfEachShape = 2;

    // What the demo shows no button of at its hour, with what it takes to see one. Each is pressed in a story, and stands in the page.
    private static readonly Dictionary<string, string> Elsewhere = new(StringComparer.OrdinalIgnoreCase)
    {
        ["GET /"] = "the first address, which leads to Today",
        ["GET /sign-out"] = "typed, or loaded again",
        ["GET /error/{code:int}"] = "a refusal",
        ["POST /error/{code:int}"] = "a refusal",
        ["GET /look-as"] = "led to by its own POST",
        ["POST /look-as?handler=End"] = "pressed by this test itself",
        ["GET /account?handler=Picture"] = "a second factor that is being set up",
        ["POST /account?handler=EndFactor"] = "a second factor",
        ["POST /sign-in?handler=Code"] = "a second factor",
        ["POST /account?handler=EndOthers"] = "another sign-in",
        ["POST /account?handler=EndPlace"] = "another sign-in",
        ["GET /ask/{slug:slug}"] = "a calendar that is not open to one",
        ["POST /ask/{slug:slug}"] = "a calendar that is not open to one",
        ["GET /calendars/{slug:slug}/import/{id:long}"] = "a file",
        ["POST /calendars/{slug:slug}/import/{id:long}"] = "a file",
        ["POST /calendars/{slug:slug}/import?handler=FetchForget"] = "a file that was fetched",
        ["POST /school-time?handler=FetchForget"] = "a file that was fetched",
        ["GET /kept/{key}"] = "a sign-in that has ended",
        ["GET /new-entry"] = "leads on to the composer of a calendar",
        ["GET /first-run"] = "an empty directory",
        ["POST /first-run"] = "an empty directory",
        ["GET /guest/{guest}"] = "a guest’s address",
        ["GET /join-links/{code:code?}/{handler:regex(^enter$)?}?handler=Enter"] = "leads out of the almanac",
        ["POST /in/{code:code}"] = "a link with an entry word",
        ["GET /rooms/{key:maxlength(40)}/{passcode:maxlength(60)?}"] = "the stand-in’s room",
        ["POST /rooms/{key:maxlength(40)}/{passcode:maxlength(60)?}"] = "the stand-in’s room",
        ["GET /n/{id:long}/{person:long}/{token}"] = "a letter",
        ["POST /n/{id:long}/{person:long}/{token}"] = "a letter",
        ["GET /welcome/{token}"] = "a letter",
        ["POST /welcome/{token}"] = "a letter",
        ["POST /mail/{file?}?handler=Again"] = "a letter that was given up",
        ["GET /people/bring-in/{id:long}"] = "a list of people",
        ["POST /people/bring-in/{id:long}"] = "a list of people",
        ["GET /people/bring-in/{id:long}?handler=Progress"] = "a long list of people",
        ["GET /calendars/{slug:slug}/defaults"] = "the settings of a department",
        ["POST /calendars/{slug:slug}/defaults"] = "the settings of a department",
        ["POST /calendars/{slug:slug}/defaults?handler=Clear"] = "a department with defaults of its own",
        ["GET /school-files/{id:long}"] = "files of a school",
        ["POST /school-files/{id:long}"] = "files of a school",
        ["POST /school-files?handler=Undo"] = "files that were taken in",
        ["POST /several-calendars?handler=Choose"] = "calendars that were looked at",
        ["POST /several-calendars?handler=Do"] = "calendars that were looked at",
        ["POST /several-calendars?handler=Undo"] = "calendars that were changed",
        ["POST /calendars/{slug:slug}/sharing?handler=AskToAdd"] = "an address of nobody",
        ["GET /people?handler=Find"] = "the script finder.js",
        ["POST /calendars/{slug:slug}/materials?handler=Undo"] = "materials that were attached",
        ["POST /calendars/{slug:slug}/publishing?handler=RevokeUnreadable"] = "a spoiled row",
        ["POST /join-links/{code:code?}/{handler:regex(^enter$)?}?handler=UndoRule"] = "a rule that was given",
        ["POST /calendars/{slug:slug}/edit?handler=OpenNow"] = "a calendar that has not opened",
        ["POST /calendars/{slug:slug}?handler=Certain"] = "a series that is not certain yet",
        ["POST /calendars/{slug:slug}?handler=Settle"] = "a loose change",
        ["POST /calendars/{slug:slug}/sessions/{key}"] = "a session of a series that stands",
        ["POST /people/{id:long}?handler=Children"] = "a family",
        ["POST /people/{id:long}?handler=Erase"] = "somebody who has left, and their name written",
        ["POST /people/{id:long}?handler=Invite"] = "somebody who was not invited",
        ["POST /people/{id:long}?handler=Withdraw"] = "somebody who was invited",
    };

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    // The other pages are for what takes something away, where the first has lost it meanwhile, or asks for more than stands in its form.
    private sealed record Seen(string Page, string What, int Destroys)
    {
        public List<string> Others { get; } = [];
    }

    private const int MostOthers = 2;

    [Fact]
    public async Task Every_button_leads_somewhere_and_every_handler_has_its_button()
    {
        using var log = new Faults();
        var reached = new ConcurrentDictionary<string, byte>(StringComparer.OrdinalIgnoreCase);
        var wrong = new ConcurrentBag<string>();
        Dictionary<string, Regex> handlers;
        using (var server = new DemoServer())
            handlers = await Handlers(server);
        // Each half at a school of its own, as what one has deleted the next would not find.
        await Task.WhenAll(
            DemoStory
                .SignIns.People.Select(one => one.Kind)
                .Append("stranger")
                .Select((kind, at) => (kind, at))
                .GroupBy(one => one.at % 2, one => one.kind)
                .Select(kinds =>
                    Task.Run(
                        async () =>
                        {
                            using var server = new DemoServer();
                            server.Services.GetRequiredService<ILoggerFactory>().AddProvider(log);
                            foreach (var kind in kinds)
                                await PressAll(server, kind, wrong, reached, handlers);
                        },
                        Stop
                    )
                )
        );
        Assert.True(wrong.IsEmpty, string.Join('\n', wrong.Order()));
        Assert.True(log.Lines.IsEmpty, string.Join('\n', log.Lines));
        var never = handlers
            .Keys.Except(reached.Keys, StringComparer.OrdinalIgnoreCase)
            .Except(Elsewhere.Keys, StringComparer.OrdinalIgnoreCase)
            .Order()
            .ToList();
        Assert.True(never.Count == 0, "No button leads to: " + string.Join('\n', never));
        Assert.Empty(Elsewhere.Keys.Except(handlers.Keys, StringComparer.OrdinalIgnoreCase));
    }

    // Each form with every field emptied, and with every field at its longest and longer: told what is wrong, never a fault.
    [Theory]
    [InlineData("teacher")]
    [InlineData("coordinator")]
    public async Task A_form_that_is_emptied_or_overfilled_is_told_what_is_wrong(string kind)
    {
        using var log = new Faults();
        var (wrong, nothing) = (new ConcurrentBag<string>(), new ConcurrentDictionary<string, byte>());
        var handlers = new Dictionary<string, Regex>();
        using var server = new DemoServer();
        server.Services.GetRequiredService<ILoggerFactory>().AddProvider(log);
        using var visitor = new Visitor(
            await server.SignedInAnew(DemoStory.SignIns.People.First(one => one.Kind == kind).Email)
        );
        var seen = await Crawl(server, visitor, kind, wrong, nothing, handlers);
        var sent = 0;
        foreach (var one in seen.OrderBy(one => one.Destroys))
        foreach (var (how, fill) in new[] { ("emptied", ""), ("overfilled", new string('ä', 4_000)) })
        {
            await visitor.Open(one.Page);
            if (
                visitor.Status != HttpStatusCode.OK
                || visitor.Pressables().FirstOrDefault(press => What(visitor, press) == one.What) is not { } press
                || !press.Form.Elements.Any(IsTyped)
            )
                continue;
            // So that no form as a whole is more than is read at all.
            foreach (var field in press.Form.Elements.Where(IsTyped).Take(12))
                if (field is IHtmlTextAreaElement area)
                    area.Value = fill;
                else if (field is IHtmlInputElement input)
                    input.Value = fill;
            await visitor.Send(press);
            sent++;
            // Too much of it may be refused as a whole, by its address or by its body.
            var isTold =
                (int)visitor.Status < 404
                || visitor.Status
                    is HttpStatusCode.Conflict
                        or HttpStatusCode.UnprocessableEntity
                        or HttpStatusCode.RequestEntityTooLarge
                        or HttpStatusCode.RequestUriTooLong
                        or HttpStatusCode.RequestHeaderFieldsTooLarge
                        or HttpStatusCode.TooManyRequests;
            if (!isTold)
                wrong.Add($"{one.What} on {one.Page}, {how}, is answered with {(int)visitor.Status}");
        }

        Assert.True(wrong.IsEmpty, string.Join('\n', wrong.Order()));
        Assert.True(log.Lines.IsEmpty, string.Join('\n', log.Lines));
        Assert.InRange(sent, 60, int.MaxValue);

        static bool IsTyped(IElement field) =>
            field
                is IHtmlTextAreaElement { IsReadOnly: false }
                    or IHtmlInputElement
                    {
                        Type: not ("hidden" or "checkbox" or "radio" or "file" or "submit" or "button"),
                        IsReadOnly: false
                    }
            && field.GetAttribute("name") is { Length: > 0 };
    }

    private static async Task PressAll(
        DemoServer server,
        string kind,
        ConcurrentBag<string> wrong,
        ConcurrentDictionary<string, byte> reached,
        Dictionary<string, Regex> handlers
    )
    {
        using var visitor = new Visitor(
            kind == "stranger"
                ? server.Client()
                : await server.SignedInAnew(DemoStory.SignIns.People.Single(one => one.Kind == kind).Email)
        );
        var seen = await Crawl(server, visitor, kind, wrong, reached, handlers);
        // In the order in which they were found.
        var count = 0;
        var waiting = new PriorityQueue<Seen, (int, int)>(seen.Select(one => (one, (one.Destroys, count++))));
        var known = seen.Select(one => one.What).ToHashSet();
        while (waiting.TryDequeue(out var one, out _))
            // What a button brings forth has buttons, too.
            foreach (var fresh in await Press(visitor, kind, one, wrong, reached, handlers))
                if (known.Add(fresh.What))
                    waiting.Enqueue(fresh, (fresh.Destroys, count++));
    }

    private static async Task<List<Seen>> Crawl(
        DemoServer server,
        Visitor visitor,
        string kind,
        ConcurrentBag<string> wrong,
        ConcurrentDictionary<string, byte> reached,
        Dictionary<string, Regex> handlers
    )
    {
        var open = new Queue<string>(
            kind == "stranger"
                ?
                [
                    server.Address("open to anyone"),
                    server.Address("short address") + "?look=1",
                    server.Address("embed"),
                    "/sign-in",
                ]
                : ["/today"]
        );
        var (queued, shapes, found, buttons) = (
            new HashSet<string>(),
            new Dictionary<string, int>(),
            new List<Seen>(),
            new Dictionary<string, Seen>()
        );
        while (open.TryDequeue(out var path))
        {
            await visitor.Open(path);
            if ((int)visitor.Status is 404 or 405 or >= 500)
            {
                wrong.Add($"{kind}: {path} is answered with {(int)visitor.Status}");
                continue;
            }

            Note(reached, handlers, "GET", visitor.Path);
            foreach (var one in Buttons(visitor, reached, handlers))
                if (buttons.TryAdd(one.What, one))
                    found.Add(one);
                else if (
                    one.Destroys >= 0
                    && buttons[one.What] is var first
                    && first.Others.Count < MostOthers
                    && first.Page != one.Page
                    && !first.Others.Contains(one.Page)
                )
                    first.Others.Add(one.Page);
            foreach (
                var link in visitor
                    .Page.QuerySelectorAll("a[href], img[src]")
                    .Select(link => link.GetAttribute("href") ?? link.GetAttribute("src")!)
            )
            {
                var to = new Uri(new Uri(server.Root, visitor.Path), link);
                if (
                    to.Authority != server.Root.Authority
                    || link.StartsWith('#')
                    || to.AbsolutePath.EndsWith("/enter", StringComparison.Ordinal)
                )
                    continue;
                var address = to.PathAndQuery;
                if (!queued.Add(address))
                    continue;
                var shape = Shape(address);
                shapes[shape] = shapes.GetValueOrDefault(shape) + 1;
                if (
                    shapes[shape]
                    <= (
                        kind is not ("coordinator" or "teacher") ? 1
                        : shape.StartsWith("/people/", StringComparison.Ordinal) ? OfEachShape + 1
                        : OfEachShape
                    )
                )
                    open.Enqueue(address);
            }
        }

        return found;
    }

    private static async Task<List<Seen>> Press(
        Visitor visitor,
        string kind,
        Seen one,
        ConcurrentBag<string> wrong,
        ConcurrentDictionary<string, byte> reached,
        Dictionary<string, Regex> handlers
    )
    {
        var found = new List<Seen>();
        foreach (var page in one.Others.Prepend(one.Page))
        {
            await visitor.Open(page);
            // What was pressed before may have taken it away.
            if (
                visitor.Status != HttpStatusCode.OK
                || visitor.Pressables().FirstOrDefault(press => What(visitor, press) == one.What) is not { } press
            )
                continue;
            if (press.IsPost)
                Note(reached, handlers, "POST", press.ActionOn(visitor.Path));
            await visitor.Send(press);
            if ((int)visitor.Status is 404 or 405 or >= 500 or 400)
                wrong.Add($"{kind}: {one.What} on {page} is answered with {(int)visitor.Status} at {visitor.Path}");
            found.AddRange(Buttons(visitor, reached, handlers));
            if ((int)visitor.Status < 400)
                break;
        }

        // Who looks as somebody else is themselves again before they press on.
        if (
            visitor
                .Pressables()
                .FirstOrDefault(again =>
                    again.ActionOn("").Contains("look-as?handler=End", StringComparison.Ordinal)
                ) is
            { } end
        )
            await visitor.Send(end);
        return found;
    }

    private static List<Seen> Buttons(
        Visitor visitor,
        ConcurrentDictionary<string, byte> reached,
        Dictionary<string, Regex> handlers
    )
    {
        var found = new List<Seen>();
        foreach (var at in visitor.Page.QuerySelectorAll("[data-hx-get], [data-hx-post]"))
            Note(
                reached,
                handlers,
                at.HasAttribute("data-hx-post") ? "POST" : "GET",
                at.GetAttribute("data-hx-post") ?? at.GetAttribute("data-hx-get")!
            );
        foreach (
            var press in visitor
                .Pressables()
                .Where(press =>
                    press.Button is not null
                    || press.Form.QuerySelector("input:not([type=hidden]), select, textarea") is not null
                )
        )
        {
            // What a script shows is the script's to press.
            if ((press.Button ?? press.Form).Closest("[hidden]") is not null)
                Note(reached, handlers, "POST", press.ActionOn(visitor.Path));
            else if (What(visitor, press) is var what)
                found.Add(new Seen(visitor.Path, what, WeightOf(what)));
        }

        return found;
    }

    // Buttons that send the same form to the same place do the same.
    private static string What(Visitor visitor, Pressable press) =>
        $"{(press.IsPost ? "POST" : "GET")} {Shape(press.ActionOn(visitor.Path))} {press.Button?.GetAttribute("name")}={Numbers().Replace(press.Button?.GetAttribute("value") ?? "", "N")}";

    private static int WeightOf(string what) =>
        Array.FindLastIndex(Destroys, words =>
            words.Any(word => what.Contains(word, StringComparison.OrdinalIgnoreCase))
        );

    private static void Note(
        ConcurrentDictionary<string, byte> reached,
        Dictionary<string, Regex> handlers,
        string method,
        string address
    )
    {
        var at = new Uri(new Uri("http://x/"), address);
        var handler = Regex.Match(at.Query, @"[?&]handler=(\w+)").Groups[1].Value;
        foreach (var (name, pattern) in handlers)
            if (
                name.StartsWith(method + " ", StringComparison.Ordinal)
                && (
                    handler.Length == 0
                        ? !name.Contains("?handler", StringComparison.Ordinal)
                        : name.EndsWith("?handler=" + handler, StringComparison.OrdinalIgnoreCase)
                )
                && pattern.IsMatch(at.AbsolutePath)
            )
                reached.TryAdd(name, 0);
    }

    // What each page can do, with what its addresses look like.
    private static async Task<Dictionary<string, Regex>> Handlers(DemoServer server)
    {
        var handlers = new Dictionary<string, Regex>(StringComparer.OrdinalIgnoreCase);
        var loader = server.Services.GetRequiredService<PageLoader>();
        foreach (
            var page in server
                .Services.GetRequiredService<IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<PageActionDescriptor>()
        )
        {
            var template = page.AttributeRouteInfo!.Template!.TrimStart('/');
            var pattern = new Regex(
                "^/"
                    + Regex.Replace(
                        Regex.Escape(template).Replace("\\{", "{", StringComparison.Ordinal),
                        @"(/?)\{[^/}]*\}",
                        match =>
                            match.Value.EndsWith("?}", StringComparison.Ordinal)
                            || match.Value.Contains("\\?", StringComparison.Ordinal)
                                ? "(/[^/]+)?"
                                : match.Groups[1].Value + "[^/]+"
                    )
                    + "$",
                RegexOptions.IgnoreCase
            );
            foreach (var handler in (await loader.LoadAsync(page, EndpointMetadataCollection.Empty)).HandlerMethods)
                handlers[
                    $"{handler.HttpMethod.ToUpperInvariant()} /{template}{(handler.Name is null ? "" : $"?handler={handler.Name}")}"
                ] = pattern;
        }

        return handlers;
    }

    // An address without what tells one thing from another of its kind.
    private static string Shape(string address)
    {
        var (path, query) = address.Split('?') is [var before, var after, ..]
            ? (before, after)
            : (address.Split('#')[0], "");
        var parts = path.Split('/');
        for (var at = 1; at < parts.Length; at++)
            if (
                Named().IsMatch(parts[at])
                || (
                    at == 2
                    && parts[1] is "c" or "calendars" or "join-links" or "in" or "embed" or "m" or "guest" or "ask"
                    && parts[at] is not "new"
                )
            )
                parts[at] = "*";
        return string.Join('/', parts)
            + (
                query.Length == 0
                    ? ""
                    : "?"
                        + string.Join(
                            '&',
                            query
                                .Split('&')
                                .Select(pair =>
                                    pair.StartsWith("handler=", StringComparison.OrdinalIgnoreCase)
                                        ? pair
                                        : pair.Split('=')[0]
                                )
                        )
            );
    }

    [GeneratedRegex(@"\d")]
    private static partial Regex Named();

    [GeneratedRegex(@"\d+")]
    private static partial Regex Numbers();

    private sealed class Faults : ILoggerProvider, ILogger
    {
        public ConcurrentQueue<string> Lines { get; } = new();

        public ILogger CreateLogger(string categoryName) => this;

        public IDisposable? BeginScope<TState>(TState state)
            where TState : notnull => null;

        public bool IsEnabled(LogLevel logLevel) => logLevel >= LogLevel.Error;

        public void Log<TState>(
            LogLevel logLevel,
            EventId eventId,
            TState state,
            Exception? exception,
            Func<TState, Exception?, string> formatter
        )
        {
            if (logLevel >= LogLevel.Error)
                Lines.Enqueue($"{formatter(state, exception)} {exception}");
        }

        public void Dispose() { }
    }
}
