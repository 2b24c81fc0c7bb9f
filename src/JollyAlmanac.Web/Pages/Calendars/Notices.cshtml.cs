using JollyAlmanac.Application;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime.Text;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>The notices of a calendar, for those who keep them.</summary>
public sealed class NoticesModel(EditNotices editNotices, RequestContext requestContext) : PageModel
{
    public NoticesView View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The same, each leading to its field: of these there are as many as forms.</summary>
    public IReadOnlyList<Problem> Linked =>
        Sent is null ? Problems : Problems.OfForm(Changing is { } id ? $"{id}" : "new");

    /// <summary>The form that was sent, and to be mended; null where none was.</summary>
    public NoticeInput? Sent { get; private set; }

    /// <summary>The notice whose form it was; null for a new one.</summary>
    public long? Changing { get; private set; }

    /// <summary>The form of a new notice.</summary>
    public NoticeInput Fresh { get; private set; } = new();

    /// <summary>A text of the school was chosen to begin with.</summary>
    public bool Begun { get; private set; }

    public bool MayKeepTexts => AccessRules.MayAtSchool(Permission.KeepSchool, requestContext.Viewer.Role);

    /// <param name="slug">The calendar.</param>
    /// <param name="begin">The text of the school to begin with.</param>
    /// <param name="series">The series to tell of.</param>
    public IActionResult OnGet(Slug slug, long? begin = null, long? series = null)
    {
        var outcome = editNotices.View(requestContext.Viewer, slug, series is { } number ? new SeriesId(number) : null);
        if (outcome is not Outcome<NoticesView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        var today = view.Now.InZone(view.School.Time.Zone).Date;
        var text = view.Texts.FirstOrDefault(one => one.Id == begin).Text;
        Begun = text is not null || view.About is not null;
        Fresh = (view.About ?? new NoticeInput(text ?? "")) with
        {
            First = LocalDatePattern.Iso.Format(today),
            Last = LocalDatePattern.Iso.Format(today.PlusDays(7)),
        };
        return Page();
    }

    public IActionResult OnPostPut(Slug slug, long? id, [FromForm] NoticeInput input) =>
        Answer(
            slug,
            editNotices.Put(requestContext.Viewer, slug, id is { } known ? new NoticeId(known) : null, input),
            notice =>
                id is null
                    ? $"It is up {Wording.Days(notice.First, notice.Last)}{(input.ByMail ? ", and on its way by e-mail" : "")}."
                    : "The notice is changed, wherever it stands.",
            () => (Sent, Changing) = (input, id)
        );

    /// <summary>How many the notice would go to, as its form stands: a piece of the page.</summary>
    public IActionResult OnPostReach(Slug slug, [FromForm] NoticeInput input) =>
        editNotices.Reach(requestContext.Viewer, slug, input) switch
        {
            Outcome<NoticeReach>.Done { Value: var reach } => Partial("_NoticeReach", reach),
            Outcome<NoticeReach>.Refused { Problems: [var first, ..] } => Content(first.Message),
            var other => Answers.Of(other),
        };

    public IActionResult OnPostDown(Slug slug, long id, int version, bool down) =>
        Answer(slug, editNotices.SetDown(requestContext.Viewer, slug, new NoticeId(id), down, version), _ =>
            down ? "The notice is down, wherever it stood." : "The notice is up again."
        );

    public IActionResult OnPostRemind(Slug slug, long id) =>
        Answer(slug, editNotices.Remind(requestContext.Viewer, slug, new NoticeId(id)), count =>
            $"{Wording.Count(count, "e-mail is", "e-mails are")} on the way."
        );

    public IActionResult OnPostKeepText(Slug slug, string? name, string? text) =>
        Answer(slug, editNotices.KeepText(requestContext.Viewer, name, text), called =>
            $"“{called}” can be begun with now."
        );

    public IActionResult OnPostRemoveText(Slug slug, long id) =>
        Answer(slug, editNotices.RemoveText(requestContext.Viewer, id), _ => "It is removed.");

    private IActionResult Answer<T>(Slug slug, Outcome<T> outcome, Func<T, string?> say, Action? keep = null) =>
        this.Back(outcome, $"/calendars/{slug}/notices", say, refused =>
        {
            Problems = refused.Problems;
            keep?.Invoke();
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return OnGet(slug);
        });
}
