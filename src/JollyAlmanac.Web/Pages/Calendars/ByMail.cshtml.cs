using JollyAlmanac.Application;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages.Calendars;

/// <summary>A calendar's sessions by e-mail: one's own choice, and for its keepers who answered what.</summary>
public sealed class ByMailModel(SessionsByMail byMail, RequestContext requestContext) : PageModel
{
    public ByMailView View { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    public IActionResult OnGet(Slug slug) => Show(slug, StatusCodes.Status200OK);

    public IActionResult OnPostBegin(Slug slug) =>
        this.Back(
            byMail.Begin(requestContext.Viewer, slug),
            $"/calendars/{slug}/by-mail",
            address => $"The sessions are on their way to {address}.",
            refused => Refused(slug, refused.Problems)
        );

    public IActionResult OnPostRemind(Slug slug, string? minutes) =>
        this.Back(
            byMail.Remind(requestContext.Viewer, slug, minutes),
            $"/calendars/{slug}/by-mail",
            before => before is null ? "No more reminders come." : "A reminder comes before each session.",
            refused => Refused(slug, refused.Problems)
        );

    public IActionResult OnPostEnd(Slug slug) =>
        this.Back(
            byMail.End(requestContext.Viewer, slug),
            $"/calendars/{slug}/by-mail",
            _ => "No more e-mails come. A last one takes the sessions to come out of your calendar.",
            refused => Refused(slug, refused.Problems)
        );

    /// <summary>What somebody answered, in words: "comes, but not on Mon 2 Nov".</summary>
    public static string WordsOf(SeriesAnswers answers)
    {
        var whole = answers.Answers.FirstOrDefault(answer => answer.Session.Length == 0);
        var words =
            whole is null ? ""
            : whole.Sequence < answers.Sent.Sequence ? $"no answer since it changed; before that: {Word(whole.Answer)}"
            : Word(whole.Answer);
        return string.Join(
            "; ",
            answers
                .Answers.Where(answer => answer.Session.Length > 0)
                .Select(answer => $"{SessionOf(answer.Session)}: {Word(answer.Answer)}")
                .Prepend(words)
                .Where(said => said.Length > 0)
        );
    }

    private static string Word(MailAnswer answer) =>
        answer switch
        {
            MailAnswer.Accepted => "comes",
            MailAnswer.Declined => "does not come",
            _ => "perhaps",
        };

    private static string SessionOf(string id) =>
        NodaTime.Text.LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd").Parse(id[..Math.Min(8, id.Length)])
            is { Success: true, Value: var day }
            ? Wording.WithWeekday(day)
            : "one session";

    private IActionResult Refused(Slug slug, IReadOnlyList<Problem> problems)
    {
        Problems = problems;
        return Show(slug, StatusCodes.Status422UnprocessableEntity);
    }

    private IActionResult Show(Slug slug, int status)
    {
        var outcome = byMail.View(requestContext.Viewer, slug);
        if (outcome is not Outcome<ByMailView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return this.Again(status);
    }
}
