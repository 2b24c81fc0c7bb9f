using System.Net;
using System.Net.Http.Headers;
using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace JollyAlmanac.Web.Tests;

/// <summary>A form with the button that sends it.</summary>
/// <param name="Form">The form.</param>
/// <param name="Button">The button; null for a form without one, which Enter sends.</param>
public sealed record Pressable(IHtmlFormElement Form, IElement? Button)
{
    /// <summary>Where it is sent to, relative to the page.</summary>
    public string ActionOn(string path) =>
        (Button?.GetAttribute("formaction") ?? Form.GetAttribute("action")) is { Length: > 0 } action ? action : path;

    /// <summary>Whether it is sent as POST.</summary>
    public bool IsPost =>
        (Button?.GetAttribute("formmethod") ?? Form.GetAttribute("method") ?? "get").Equals(
            "post",
            StringComparison.OrdinalIgnoreCase
        );
}

/// <summary>
/// Somebody at a page without scripts: follows links by their words, fills fields by their labels, presses buttons by their words, and
/// sees what a browser would show of it.
/// </summary>
public sealed partial class Visitor(HttpClient client) : IDisposable
{
    private static readonly HtmlParser Parser = new();

    private readonly Dictionary<IElement, (string Name, byte[] Bytes)> files = [];

    /// <summary>The page.</summary>
    public IHtmlDocument Page { get; private set; } = Parser.ParseDocument("");

    /// <summary>Its address, without the host.</summary>
    public string Path { get; private set; } = "/";

    /// <summary>The status it was answered with.</summary>
    public HttpStatusCode Status { get; private set; }

    /// <summary>The last answer that was no page: a file.</summary>
    public byte[] File { get; private set; } = [];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => client.Dispose();

    /// <summary>Opens an address, as somebody does who was given it, and follows where it leads.</summary>
    public async Task<Visitor> Open(string address)
    {
        var to = new Uri(client.BaseAddress!, address);
        // What lies elsewhere is not there in a test; that it leads there is seen.
        if (to.Authority != client.BaseAddress!.Authority)
            Leave(to);
        else
            await Take(await client.GetAsync(to, Stop), to);
        return this;
    }

    /// <summary>Follows the link of those words: all of them, or the beginning.</summary>
    public async Task<Visitor> Follow(string words)
    {
        var links = Page.QuerySelectorAll("a[href]").Where(link => !IsHidden(link)).ToList();
        var link = links.Find(one => Words(one) == words)
            ?? links.Find(one => one.GetAttribute("aria-label") == words)
            ?? links.Find(one => Words(one).StartsWith(words, StringComparison.Ordinal))
            ?? throw new InvalidOperationException(
                $"No link “{words}” on {Path}. There are: {string.Join(" | ", links.Select(Words).Distinct())}"
            );
        return await Open(new Uri(new Uri(client.BaseAddress!, Path), link.GetAttribute("href")).ToString());
    }

    /// <summary>Fills the field of that label; ticks or chooses where it is a box or a list.</summary>
    public Visitor Fill(string label, string value)
    {
        switch (Field(label))
        {
            case IHtmlSelectElement select:
                var option = select.Options.FirstOrDefault(one => Clean(one.TextContent) == value)
                    ?? select.Options.FirstOrDefault(one =>
                        Clean(one.TextContent).StartsWith(value, StringComparison.Ordinal)
                    )
                    ?? throw new InvalidOperationException(
                        $"“{label}” has no choice “{value}”. There are: {string.Join(" | ", select.Options.Select(one => Clean(one.TextContent)))}"
                    );
                foreach (var other in select.Options)
                    other.IsSelected = ReferenceEquals(other, option);
                break;
            case IHtmlTextAreaElement area:
                area.Value = value;
                break;
            case IHtmlInputElement { Type: "checkbox" } box:
                box.IsChecked = value != "";
                break;
            case IHtmlInputElement input:
                input.Value = value;
                break;
        }

        return this;
    }

    /// <summary>Fills the fields of that label, which stands on the page several times, in their order.</summary>
    public Visitor FillAll(string label, IReadOnlyList<string> values)
    {
        var labels = Page.QuerySelectorAll<IHtmlLabelElement>("label")
            .Where(one => !IsHidden(one) && Words(one).StartsWith(label, StringComparison.Ordinal));
        foreach (var (found, value) in labels.Zip(values))
        {
            var field = found.Control ?? found.QuerySelector("input, textarea");
            if (field is IHtmlTextAreaElement area)
                area.Value = value;
            else
                ((IHtmlInputElement)field!).Value = value;
        }

        return this;
    }

    /// <summary>Chooses from the list of that label what holds some words.</summary>
    public Visitor FillChoice(string label, string words)
    {
        var select = (IHtmlSelectElement)Field(label);
        var option = select.Options.FirstOrDefault(one =>
            Clean(one.TextContent).Contains(words, StringComparison.Ordinal)
        )
            ?? throw new InvalidOperationException(
                $"“{label}” has no choice with “{words}”. There are: {string.Join(" | ", select.Options.Select(one => Clean(one.TextContent)))}"
            );
        foreach (var other in select.Options)
            other.IsSelected = ReferenceEquals(other, option);
        return this;
    }

    /// <summary>Follows the mark of a session on the sheet, in the cell of its day.</summary>
    /// <param name="title">What is told of it: the beginning.</param>
    /// <param name="day">The day, ISO.</param>
    public async Task<Visitor> FollowMark(string title, string day)
    {
        var link = Page.QuerySelectorAll($"td[data-day='{day}'] a")
            .FirstOrDefault(one => one.GetAttribute("title")?.StartsWith(title, StringComparison.Ordinal) == true)
            ?? throw new InvalidOperationException($"No mark “{title}” on {day}, on {Path}.");
        return await Open(new Uri(new Uri(client.BaseAddress!, Path), link.GetAttribute("href")).ToString());
    }

    /// <summary>What stands in the field of that label.</summary>
    public string ValueOf(string label) =>
        Field(label) switch
        {
            IHtmlTextAreaElement area => area.Value,
            IHtmlInputElement input => input.Value,
            var other => Clean(other.TextContent),
        };

    /// <summary>Ticks a box, or chooses one of several.</summary>
    public Visitor Tick(string label)
    {
        if (Field(label) is not IHtmlInputElement { Type: "checkbox" or "radio" } box)
            throw new InvalidOperationException($"“{label}” is no box.");
        if (box.Type == "radio")
            foreach (
                var other in Page.QuerySelectorAll<IHtmlInputElement>("input[type=radio]")
                    .Where(one => one.Name == box.Name && one.Form == box.Form)
            )
                other.IsChecked = false;
        box.IsChecked = true;
        return this;
    }

    /// <summary>Takes the tick out of a box.</summary>
    public Visitor Untick(string label)
    {
        if (Field(label) is not IHtmlInputElement { Type: "checkbox" } box)
            throw new InvalidOperationException($"“{label}” is no box.");
        box.IsChecked = false;
        return this;
    }

    /// <summary>Chooses a file.</summary>
    public Visitor Attach(string label, string name, byte[] bytes)
    {
        files[Field(label)] = (name, bytes);
        return this;
    }

    /// <summary>Presses the button of those words, within what is marked by others where they are given.</summary>
    /// <param name="words">What stands on it: all of it, or the beginning.</param>
    /// <param name="within">Words of the row, the part or the form that it is in.</param>
    /// <param name="status">What it is answered with in the end.</param>
    public async Task<Visitor> Press(string words, string? within = null, HttpStatusCode status = HttpStatusCode.OK)
    {
        var buttons = Page.QuerySelectorAll("button, input[type=submit]")
            .Where(button =>
                !IsHidden(button) && button.GetAttribute("type") != "button" && !button.HasAttribute("disabled")
            )
            .ToList();
        bool Is(IElement button, Func<string, bool> asked) =>
            asked(Words(button)) || (button.GetAttribute("aria-label") is { } label && asked(label));
        var found = buttons.FindAll(button => Is(button, text => text == words));
        if (found.Count == 0)
            found = buttons.FindAll(button => Is(button, text => text.StartsWith(words, StringComparison.Ordinal)));
        // The nearest row, part or form that says so.
        if (within is not null)
            found =
            [
                .. found
                    .Select(button => (Button: button, Room: Around(button, within)))
                    .Where(one => one.Room < int.MaxValue)
                    .OrderBy(one => one.Room)
                    .Select(one => one.Button),
            ];
        if (found.Count == 0)
            throw new InvalidOperationException(
                $"No button “{words}”{(within is null ? "" : $" within “{within}”")} on {Path}. There are: {string.Join(" | ", buttons.Select(Words).Distinct())}"
            );
        var form = found[0] is IHtmlButtonElement { Form: { } owner }
            ? owner
            : (IHtmlFormElement)found[0].Closest("form")!;
        await Send(new Pressable(form, found[0]));
        Assert.True(
            Status == status,
            $"“{words}” on {Path}: {(int)Status}. {Clean(Page.QuerySelector(".problems")?.TextContent ?? "")}"
        );
        return this;
    }

    /// <summary>Sends a form as it stands.</summary>
    public async Task Send(Pressable press)
    {
        var at = new Uri(new Uri(client.BaseAddress!, Path), press.ActionOn(Path));
        var fields = Fields(press).ToList();
        if (!press.IsPost)
        {
            var query = string.Join(
                '&',
                fields.Select(field => $"{Uri.EscapeDataString(field.Key)}={Uri.EscapeDataString(field.Value)}")
            );
            await Open(new UriBuilder(at) { Query = query }.Uri.ToString());
            return;
        }

        HttpContent body;
        if (press.Form.GetAttribute("enctype") == "multipart/form-data")
        {
            var parts = new MultipartFormDataContent();
            foreach (var (name, value) in fields)
                parts.Add(new StringContent(value), name);
            foreach (var (element, (name, bytes)) in files.Where(file => press.Form.Contains(file.Key)))
            {
                var part = new ByteArrayContent(bytes);
                part.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
                parts.Add(part, element.GetAttribute("name")!, name);
            }

            body = parts;
        }
        else
        {
            body = new FormUrlEncodedContent(fields);
        }

        await Take(await client.PostAsync(at, body, Stop), at);
    }

    /// <summary>What the form sends, in order, with its button.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Fields(Pressable press)
    {
        foreach (var element in press.Form.Elements)
        {
            if (
                element.GetAttribute("name") is not { Length: > 0 } name
                || element.HasAttribute("disabled")
                || element.Closest("fieldset[disabled]") is not null
            )
                continue;
            switch (element)
            {
                case IHtmlInputElement { Type: "checkbox" or "radio" } box:
                    if (box.IsChecked)
                        yield return new(name, box.GetAttribute("value") ?? "on");
                    break;
                case IHtmlInputElement { Type: "submit" or "button" or "image" or "reset" or "file" }:
                    break;
                case IHtmlInputElement input:
                    yield return new(name, input.Value);
                    break;
                case IHtmlTextAreaElement area:
                    yield return new(name, area.Value.ReplaceLineEndings("\r\n"));
                    break;
                case IHtmlSelectElement select:
                    foreach (var option in select.Options.Where(option => option.IsSelected))
                        yield return new(name, option.Value);
                    break;
            }
        }

        if (press.Button?.GetAttribute("name") is { Length: > 0 } named)
            yield return new(named, press.Button.GetAttribute("value") ?? "");
    }

    /// <summary>All forms of the page with each of their buttons.</summary>
    public IEnumerable<Pressable> Pressables()
    {
        var buttons = Page.QuerySelectorAll("button, input[type=submit]")
            .Where(button => button.GetAttribute("type") != "button")
            .ToLookup(button =>
                button.GetAttribute("form") is { Length: > 0 } id ? Page.GetElementById(id) : button.Closest("form")
            );
        foreach (var form in Page.QuerySelectorAll<IHtmlFormElement>("form"))
        {
            if (!buttons[form].Any())
                yield return new Pressable(form, null);
            foreach (var button in buttons[form].Where(button => !button.HasAttribute("disabled")))
                yield return new Pressable(form, button);
        }
    }

    /// <summary>The text of the page as one reads it.</summary>
    public string Text => Clean(Page.Body?.TextContent ?? "");

    /// <summary>The page says that.</summary>
    public Visitor Sees(string words)
    {
        Assert.True(
            Text.Contains(words, StringComparison.Ordinal),
            $"{Path} does not say “{words}”. It says: {(Text.Length > 3000 ? Text[..3000] : Text)}"
        );
        return this;
    }

    /// <summary>The page does not say that.</summary>
    public Visitor DoesNotSee(string words)
    {
        Assert.False(Text.Contains(words, StringComparison.Ordinal), $"{Path} says “{words}”.");
        return this;
    }

    /// <summary>The address that a link of those words leads to.</summary>
    public string AddressOf(string words) =>
        new Uri(
            new Uri(client.BaseAddress!, Path),
            Page.QuerySelectorAll("a[href]")
                .Where(link => Words(link).StartsWith(words, StringComparison.Ordinal))
                .OrderBy(link => Words(link).Length)
                .First()
                .GetAttribute("href")
        ).ToString();

    private void Leave(Uri to) => (Status, Path, Page) = (HttpStatusCode.OK, to.ToString(), Parser.ParseDocument(""));

    private async Task Take(HttpResponseMessage answer, Uri from)
    {
        for (
            var hops = 0;
            (int)answer.StatusCode is >= 300 and < 400 && answer.Headers.Location is { } location;
            hops++
        )
        {
            Assert.True(hops < 6, $"{from} leads in circles.");
            from = new Uri(from, location);
            answer.Dispose();
            if (from.Authority != client.BaseAddress!.Authority)
            {
                Leave(from);
                return;
            }

            answer = await client.GetAsync(from, Stop);
        }

        using (answer)
        {
            (Status, Path) = (answer.StatusCode, from.PathAndQuery);
            files.Clear();
            if (answer.Content.Headers.ContentType?.MediaType == "text/html")
                Page = Parser.ParseDocument(await answer.Content.ReadAsStringAsync(Stop));
            else
                (File, Page) = (await answer.Content.ReadAsByteArrayAsync(Stop), Parser.ParseDocument(""));
        }
    }

    private IElement Field(string label)
    {
        var labels = Page.QuerySelectorAll<IHtmlLabelElement>("label").Where(one => !IsHidden(one)).ToList();
        var found = labels.Find(one => Words(one) == label)
            ?? labels.Find(one => Words(one).StartsWith(label, StringComparison.Ordinal));
        if ((found?.Control ?? found?.QuerySelector("input, select, textarea")) is { } control)
            return control;
        return Page.QuerySelectorAll("input, select, textarea")
            .FirstOrDefault(one => one.GetAttribute("aria-label") == label)
            ?? Page.QuerySelectorAll("input, select, textarea")
                .FirstOrDefault(one =>
                    one.GetAttribute("aria-label")?.StartsWith(label, StringComparison.Ordinal) == true
                )
            ?? throw new InvalidOperationException(
                $"No field “{label}” on {Path}. There are: {string.Join(" | ", labels.Select(Words).Concat(Page.QuerySelectorAll("[aria-label]").Select(one => one.GetAttribute("aria-label")!)).Distinct())}"
            );
    }

    // How much is said by the smallest part of the page that holds both the button and the words.
    private static int Around(IElement button, string words)
    {
        for (
            var at = button.ParentElement;
            at is not null && at.LocalName is not ("main" or "body");
            at = at.ParentElement
        )
            if (Clean(at.TextContent).Contains(words, StringComparison.Ordinal))
                return at.TextContent.Length;
        return int.MaxValue;
    }

    private static bool IsHidden(IElement element) => element.Closest("[hidden], template") is not null;

    private static string Words(IElement element)
    {
        var text = Clean(element.TextContent);
        return text.Length > 0
            ? text
            : element.GetAttribute("aria-label")
                ?? element.GetAttribute("value")
                ?? element.GetAttribute("title")
                ?? "";
    }

    private static string Clean(string text) => Blanks().Replace(text, " ").Trim();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();
}
