using System.Text.RegularExpressions;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Demo.Mail;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>The letters that did not go, and the drop that holds those that did where there is no mail server. For coordinators.</summary>
public sealed partial class MailModel(
    Outbox outbox,
    MailDrop drop,
    AlmanacSettings settings,
    RequestContext requestContext
) : PageModel
{
    public OutboxView View { get; private set; } = null!;

    public IReadOnlyList<DroppedLetter> Drop { get; private set; } = [];

    public DroppedLetter? Letter { get; private set; }

    /// <summary>The path of the almanac that the open letter leads to; null for none.</summary>
    public string? Way =>
        Letter is null ? null
        : Welcome().Match(Letter.Text) is { Success: true } way ? way.Value
        : null;

    public bool HasServer => settings.Smtp is not null;

    public IActionResult OnGet(string? file)
    {
        var outcome = outbox.View(requestContext.Viewer);
        if (outcome is not Outcome<OutboxView>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        if (file is null)
            Drop = drop.List();
        else if (drop.Find(file) is { } letter)
            Letter = letter;
        else
            return NotFound();
        return Page();
    }

    public IActionResult OnPostAgain(long id)
    {
        var outcome = outbox.SendAgain(requestContext.Viewer, id);
        if (outcome is not Outcome<bool>.Done)
            return Answers.Of(outcome);
        TempData[TempDataKeys.Said] = "It is tried again now.";
        return Redirect("/mail");
    }

    [GeneratedRegex("/(?:welcome/[0-9a-z]{26}|calendars/[a-z0-9-]+(?:/sharing)?)")]
    private static partial Regex Welcome();
}
