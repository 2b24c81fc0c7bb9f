using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>The form fields about materials.</summary>
public sealed class MaterialForm
{
    public IFormFileCollection? MaterialFiles { get; set; }

    public string? MaterialTitle { get; set; }

    public string? MaterialAddress { get; set; }

    public string? MaterialForSession { get; set; }

    public bool MaterialPeopleOnly { get; set; }

    public bool MaterialIsRecording { get; set; }

    public IReadOnlyList<string>? MaterialOnly { get; set; }

    public string? MaterialOnlyOthers { get; set; }

    public IReadOnlyList<long>? TakeOff { get; set; }

    internal MaterialInput ToInput() =>
        new(
            [
                .. (MaterialFiles ?? (IEnumerable<IFormFile>)[]).Select(file => new Upload(
                    file.FileName,
                    file.Length,
                    file.OpenReadStream
                )),
            ],
            MaterialTitle,
            MaterialAddress,
            MaterialForSession,
            MaterialPeopleOnly,
            MaterialIsRecording,
            TakeOff,
            new AudienceInput(MaterialOnly, MaterialOnlyOthers)
        );
}

/// <summary>The fields of a pattern, as they stand in the composer.</summary>
public sealed record PatternForm(Composer Composer, SeriesInput Input, IReadOnlyList<Problem> Problems);

public sealed class ComposerModel(
    ComposeSeries composeSeries,
    RemoveSeries takeOff,
    QuickAdd quickAdd,
    RequestContext requestContext
) : PageModel
{
    /// <summary>The line of quick entry.</summary>
    public string? Line { get; private set; }

    /// <summary>What was read of it.</summary>
    public QuickReading? Reading { get; private set; }

    /// <summary>The next day that a line without a first day fits; null where it says one, or no day does.</summary>
    public LocalDate? Proposed =>
        Reading is { From: null, Repeat: { } repeat, Problems.IsEmpty: true }
            ? NextFit.Of(repeat, Composer.School, requestContext.Now.InZone(Composer.School.Zone).Date)
            : null;

    public Composer Composer { get; private set; } = null!;

    public SeriesInput Input { get; private set; } = null!;

    public MaterialForm Material { get; private set; } = new();

    public SeriesPreview? Preview { get; private set; }

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The further calendars that a new series stands on as well, by their slugs.</summary>
    public IReadOnlyList<Slug> Also { get; private set; } = [];

    /// <summary>Where somebody else was faster: what differs between what is stored and the form; else null.</summary>
    public IReadOnlyList<(string Label, string Stored, string Yours)>? Differences { get; private set; }

    public HistoryLine? StaleBy { get; private set; }

    /// <param name="slug">The calendar.</param>
    /// <param name="id">"new", or the number of a series.</param>
    /// <param name="line">A line of quick entry to begin with.</param>
    /// <param name="session">The key of a session that a material is to be for.</param>
    /// <param name="place">Where on a sheet a new one begins.</param>
    public IActionResult OnGet(Slug slug, string id, string? line, string? session, [FromQuery] EntryPlace place)
    {
        if (!TryRead(id, out var series))
            return NotFound();
        switch (composeSeries.Open(requestContext.Viewer, slug, series, place))
        {
            case Outcome<Composer>.Done { Value: var composer }:
                var input = composer.Input;
                if (
                    !string.IsNullOrWhiteSpace(line)
                    && quickAdd.Fill(requestContext.Viewer, slug, line, input)
                        is Outcome<(QuickReading Reading, SeriesInput Input)>.Done { Value: var filled }
                )
                    (Line, Reading, input) = (line, filled.Reading, filled.Input);
                if (session is not null)
                    Material.MaterialForSession = session;
                return Show(composer, input, slug, series);
            case var other:
                return Answers.Of(other);
        }
    }

    public IActionResult OnGetPreview(Slug slug, string id, [FromQuery] SeriesInput input)
    {
        if (!TryRead(id, out var series))
            return NotFound();
        return
            composeSeries.Preview(requestContext.Viewer, slug, series, input)
                is Outcome<SeriesPreview>.Done { Value: var preview }
            ? Partial("_SeriesPreview", preview)
            : NotFound();
    }

    public IActionResult OnGetQuick(Slug slug, string id, string? line, [FromQuery] SeriesInput input)
    {
        if (
            !TryRead(id, out var series)
            || composeSeries.Open(requestContext.Viewer, slug, series)
                is not Outcome<Composer>.Done { Value: var composer }
        )
            return NotFound();
        var form = input with { Version = composer.Input.Version };
        if (
            !string.IsNullOrWhiteSpace(line)
            && quickAdd.Fill(requestContext.Viewer, slug, line, form)
                is Outcome<(QuickReading Reading, SeriesInput Input)>.Done { Value: var filled }
        )
            (Reading, form) = (filled.Reading, filled.Input);
        Line = line;
        Show(composer, form, slug, series);
        return Partial("_QuickAnswer", this);
    }

    /// <summary>Fills the form by a line; what the line does not say stays as it was typed. Nothing is saved.</summary>
    public IActionResult OnPostRead(
        Slug slug,
        string id,
        string? line,
        string? beginning,
        [FromForm] SeriesInput input,
        [FromForm] MaterialForm material
    )
    {
        if (!TryRead(id, out var series))
            return NotFound();
        // The day that was proposed and pressed stands in the line from then on.
        if (LocalDatePattern.Iso.Parse(beginning ?? "") is { Success: true, Value: var day })
            line = $"{line?.Trim()} from {LocalDatePattern.Iso.Format(day)}";
        ModelState.Clear();
        switch (composeSeries.Open(requestContext.Viewer, slug, series))
        {
            case Outcome<Composer>.Done { Value: var composer }:
                (Material, Line) = (material, line);
                if (
                    !string.IsNullOrWhiteSpace(line)
                    && quickAdd.Fill(requestContext.Viewer, slug, line, input)
                        is Outcome<(QuickReading Reading, SeriesInput Input)>.Done { Value: var filled }
                )
                    (Reading, input) = (filled.Reading, filled.Input);
                return Show(composer, input, slug, series);
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>The letter that was pasted.</summary>
    public string? Letter { get; private set; }

    /// <summary>What was read of the letter.</summary>
    public LetterReading? LetterRead { get; private set; }

    /// <summary>Fills the form by a letter that asks for a meeting. Nothing is saved.</summary>
    public IActionResult OnPostLetter(
        Slug slug,
        string id,
        string? letter,
        [FromForm] SeriesInput input,
        [FromForm] MaterialForm material
    )
    {
        if (id != "new")
            return NotFound();
        if (
            composeSeries.Open(requestContext.Viewer, slug, null) is var opened
            && opened is not Outcome<Composer>.Done { Value: var composer }
        )
            return Answers.Of(opened);
        (Material, Letter) = (material, letter);
        ModelState.Clear();
        switch (quickAdd.FillByLetter(requestContext.Viewer, slug, letter, input))
        {
            case Outcome<(LetterReading Letter, QuickReading? Reading, SeriesInput Input)>.Done { Value: var filled }:
                (LetterRead, Reading, Line) = (filled.Letter, filled.Reading, filled.Letter.Line);
                return Show(composer, filled.Input, slug, null);
            case Outcome<(LetterReading Letter, QuickReading? Reading, SeriesInput Input)>.Refused refused:
                Problems = refused.Problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                return Show(composer, input, slug, null);
            case var other:
                return Answers.Of(other);
        }
    }

    /// <summary>The same form for another calendar; nothing is saved. A link of the old calendar does not go with it.</summary>
    public IActionResult OnPostSwitch(
        Slug slug,
        string id,
        Slug? to,
        string? line,
        [FromForm] SeriesInput input,
        [FromForm] MaterialForm material
    )
    {
        if (id != "new" || to is not { } other)
            return NotFound();
        if (
            composeSeries.Open(requestContext.Viewer, slug, null) is not Outcome<Composer>.Done { Value: var before }
            || composeSeries.Open(requestContext.Viewer, other, null)
                is not Outcome<Composer>.Done { Value: var composer }
        )
            return NotFound();
        (Material, Line) = (material, line);
        ModelState.Clear();
        return Show(
            composer,
            input with
            {
                Title = input.Title == before.Input.Title ? composer.Input.Title : input.Title,
                Link = input.Link is "new" or "room" ? input.Link : composer.Input.Link,
                Only = null,
                OnlyOthers = "",
            },
            other,
            null
        );
    }

    public async Task<IActionResult> OnPostAsync(
        Slug slug,
        string id,
        [FromForm] SeriesInput input,
        [FromForm] MaterialForm material,
        Slug[] also,
        CancellationToken cancellation
    )
    {
        if (!TryRead(id, out var series))
            return NotFound();
        (Material, Also) = (material, [.. also.Distinct().Where(other => other != slug).Take(60)]);
        var outcome = await composeSeries.Save(
            requestContext.Viewer,
            slug,
            series,
            input,
            material.ToInput(),
            cancellation
        );
        switch (outcome)
        {
            case Outcome<Series>.Done { Value: var saved }:
                if (series is null && Also.Count > 0)
                    return await SaveElsewhere(slug, input, saved, cancellation);
                TempData[TempDataKeys.SavedSeries] = saved.Id.Value.ToString(CultureInfo.InvariantCulture);
                TempData[TempDataKeys.Said] = series is null
                    ? $"{saved.Title} is on the calendar."
                    : $"{saved.Title} is changed, everywhere it is published.";
                return Redirect($"/calendars/{slug}");
            case Outcome<Series>.Refused { Problems: var problems }:
                Problems = problems;
                Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
                break;
            case Outcome<Series>.Stale { By: var by }:
                StaleBy = by;
                Response.StatusCode = StatusCodes.Status409Conflict;
                break;
            default:
                return Answers.Of(outcome);
        }

        if (
            composeSeries.Open(requestContext.Viewer, slug, series)
            is not Outcome<Composer>.Done { Value: var composer }
        )
            return NotFound();
        if (outcome is Outcome<Series>.Stale)
            Differences = Compare(composer, composer.Input, input);
        return Show(composer, input, slug, series);
    }

    // The same series on further calendars: each is a series of its own there, joined by the same link.
    private async Task<IActionResult> SaveElsewhere(
        Slug slug,
        SeriesInput input,
        Series saved,
        CancellationToken cancellation
    )
    {
        var link = saved.JoinLink is { } id ? id.Value.ToString(CultureInfo.InvariantCulture) : "";
        var (on, wrong) = (1, new List<string>());
        foreach (var other in Also)
            switch (
                await composeSeries.Save(
                    requestContext.Viewer,
                    other,
                    null,
                    input with
                    {
                        Link = link,
                        LinkTarget = "",
                        LinkName = "",
                        Only = null,
                        OnlyOthers = "",
                    },
                    MaterialInput.None,
                    cancellation
                )
            )
            {
                case Outcome<Series>.Done:
                    on++;
                    break;
                case Outcome<Series>.Refused { Problems: [var first, ..] }:
                    wrong.Add($"{other}: {first.Message}");
                    break;
                default:
                    wrong.Add($"{other}: you may not add to it");
                    break;
            }

        TempData[TempDataKeys.SavedSeries] = saved.Id.Value.ToString(CultureInfo.InvariantCulture);
        TempData[TempDataKeys.Said] =
            $"{saved.Title} is on {Wording.Count(on, "calendar", "calendars")}."
            + (wrong.Count > 0 ? $" Not on {string.Join("; ", wrong)}" : "");
        return Redirect($"/calendars/{slug}");
    }

    public IActionResult OnPostTakeOff(Slug slug, string id, int version)
    {
        if (!TryRead(id, out var series) || series is null)
            return NotFound();
        switch (takeOff.Do(requestContext.Viewer, slug, series.Value, version))
        {
            case Outcome<Series>.Done { Value: var off }:
                TempData[TempDataKeys.Said] = $"{off.Title} is removed.";
                TempData[TempDataKeys.MayUndo] = true;
                return Redirect($"/calendars/{slug}");
            case var other:
                return Answers.Of(other);
        }
    }

    private PageResult Show(Composer composer, SeriesInput input, Slug slug, SeriesId? series)
    {
        (Composer, Input) = (composer, input);
        // The join link has no part in what comes out, and a fault in it must not hide the sessions.
        if (
            (composer.Stored is not null || input.Days is { Count: > 0 } || input.Meets is not (null or "weekly"))
            && composeSeries.Preview(requestContext.Viewer, slug, series, input with { Link = "" })
                is Outcome<SeriesPreview>.Done { Value: var preview }
        )
            Preview = preview;
        return Page();
    }

    private static List<(string, string, string)> Compare(Composer composer, SeriesInput stored, SeriesInput yours)
    {
        (string Label, Func<SeriesInput, string?> Read)[] fields =
        [
            ("Title", one => one.Title),
            ("Meets", one => one.Meets switch
                {
                    "cycle" => $"Days {string.Join(", ", one.CycleDays ?? [])} of the cycle",
                    "dates" => one.Dates?.ReplaceLineEndings(", "),
                    "monthly" => one.Monthly.ToRule()?.ToString(),
                    "rule" => one.Rule,
                    _ => "every week, on days",
                }),
            ("Days", one =>
                string.Join(
                    ", ",
                    (one.Days ?? []).Select(day =>
                        int.TryParse(day, out var number) && number is >= 1 and <= 7
                            ? Wording.Brief((NodaTime.IsoDayOfWeek)number)
                            : day
                    )
                )
            ),
            ("Every", one => one.EveryWeeks == "1" ? "week" : $"{one.EveryWeeks} weeks"),
            ("At", one => string.IsNullOrEmpty(one.Period) ? $"{one.Start}–{one.End}" : $"period {one.Period}"),
            ("From", one => one.From),
            ("Until", one => one.Extent switch
                {
                    "until" => one.Until,
                    "held" => $"{one.Held} sessions",
                    "open" => "without an end",
                    _ => composer
                        .School.Terms.FirstOrDefault(term =>
                            term.Id.Value.ToString(CultureInfo.InvariantCulture) == one.Term
                        )
                        ?.Name,
                }),
            ("On no-class days", one =>
                one.NoClass is { Length: > 0 } policy ? policy : nameof(NoClassPolicy.LeaveOut)
            ),
            ("Extra sessions", one => one.Extra?.ReplaceLineEndings(", ")),
            ("Counted as", one => one.NumberLabel),
            ("Not certain yet", one => one.IsTentative ? "yes" : "no"),
            ("Private", one => one.IsPrivate ? "yes" : "no"),
            ("Only for", one =>
                string.Join(
                    ", ",
                    composer
                        .Some.Groups.Where(group => one.Only?.Contains(AudienceInput.KeyOf(group.Id)) == true)
                        .Select(group => group.Name)
                        .Concat(
                            composer
                                .Some.People.Where(person => one.Only?.Contains(AudienceInput.KeyOf(person.Id)) == true)
                                .Select(person => person.Name)
                        )
                        .Append(one.OnlyOthers?.ReplaceLineEndings(", "))
                        .Where(part => part is { Length: > 0 })
                )
            ),
            ("Place", one => one.Place),
            ("Join link", one =>
                one.Link == "new"
                    ? "a new one"
                    : composer
                        .Links.FirstOrDefault(link => link.Id.Value.ToString(CultureInfo.InvariantCulture) == one.Link)
                        ?.Name
                        ?? "none"
            ),
            ("About it", one => one.Description?.ReplaceLineEndings("\n")),
        ];
        return
        [
            .. fields
                .Select(field => (field.Label, field.Read(stored) ?? "", field.Read(yours) ?? ""))
                .Where(pair => pair.Item2 != pair.Item3),
        ];
    }

    private static bool TryRead(string id, out SeriesId? series)
    {
        series = null;
        if (id == "new")
            return true;
        if (!long.TryParse(id, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            return false;
        series = new SeriesId(number);
        return true;
    }
}
