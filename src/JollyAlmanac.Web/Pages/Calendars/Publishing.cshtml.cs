using JollyAlmanac.Application;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using NodaTime;

namespace JollyAlmanac.Web.Pages.Calendars;

public sealed class PublishingModel(
    Publications publications,
    GiveCopy giveCopy,
    ReadFeed readFeed,
    RequestContext requestContext
) : PageModel
{
    public PublishingView Publication { get; private set; } = null!;

    public IReadOnlyList<Problem> Problems { get; private set; } = [];

    /// <summary>The same, each leading to its field: of these there are as many as forms.</summary>
    public IReadOnlyList<Problem> Linked =>
        Input is null ? Problems : Problems.OfForm(Changing is { } id ? $"{id}" : $"{Kind}");

    /// <summary>The form that was sent, and to be mended; null where none was.</summary>
    public PublicationInput? Input { get; private set; }

    public PublicationKind? Kind { get; private set; }

    public IActionResult OnGet(Slug slug)
    {
        var outcome = publications.Of(requestContext.Viewer, slug);
        if (outcome is not Outcome<PublishingView>.Done { Value: var publishingView })
            return Answers.Of(outcome);
        Publication = publishingView;
        return Page();
    }

    /// <summary>Where an embed was shown: "shown on www.skerry.example since Wed 14 Oct, last Thu 15 Oct, 9:40".</summary>
    public string ShownInWords(PublicationWithToken embed)
    {
        var sites = embed.Outlet.Sites.Select(site => Bare(site.Value)).ToList();
        var shown = embed.ShownOn.Where(one => sites.Contains(Bare(one.Site))).ToList();
        string Day(Instant at) => Wording.WithWeekday(at.InZone(Publication.Zone).Date);
        return shown.Count == 0
            ? $"for {Wording.Few(sites)}; no page has shown it yet"
            : string.Join(
                "; ",
                shown.Select(one =>
                    $"shown on {Bare(one.Site)} since {Day(one.First)}, last {Day(one.Last)}, {Wording.Of(one.Last.InZone(Publication.Zone).TimeOfDay)}"
                )
            )
                + (
                    shown.Count < sites.Count
                        ? $"; not yet on {Wording.Few([.. sites.Except(shown.Select(one => Bare(one.Site)))])}"
                        : ""
                );

        static string Bare(string site) => site.Replace("https://", "", StringComparison.Ordinal);
    }

    /// <summary>What a feed tells now.</summary>
    public IActionResult OnGetTells(Slug slug, long id)
    {
        var outcome = publications.Tells(
            requestContext.Viewer,
            slug,
            new PublicationId(id),
            readFeed,
            requestContext.Root
        );
        return outcome is Outcome<FeedTells>.Done { Value: var tells }
            ? Partial("_FeedTells", tells)
            : Answers.Of(outcome);
    }

    /// <summary>The QR picture of a feed's address, for those alone who may see the address.</summary>
    public IActionResult OnGetQr(Slug slug, long id)
    {
        var outcome = publications.Of(requestContext.Viewer, slug);
        if (outcome is not Outcome<PublishingView>.Done { Value: var publishingView })
            return Answers.Of(outcome);
        return publishingView.Feeds.FirstOrDefault(one => one.Outlet.Id.Value == id) is { Token: var token }
            ? File(
                System.Text.Encoding.UTF8.GetBytes(QrPicture.Svg(new Uri(requestContext.Root, $"feeds/{token}.ics"))),
                "image/svg+xml"
            )
            : NotFound();
    }

    public IActionResult OnPostMake(Slug slug, PublicationKind kind, [FromForm] PublicationInput input)
    {
        if (!Enum.IsDefined(kind))
            return NotFound();
        var outcome = publications.Make(requestContext.Viewer, slug, kind, input);
        if (outcome is not Outcome<PublicationWithToken>.Refused { Problems: var problems })
            return Settle(slug, outcome, one => $"{one.Name} is made. Copy its address.");
        (Problems, Input, Kind) = (problems, input, kind);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return OnGet(slug);
    }

    /// <summary>The form of a copy: as it was sent, where it is to be mended.</summary>
    public CopyInput Copied { get; private set; } = new();

    public IActionResult OnPostCopy(Slug slug, [FromForm(Name = "copy")] CopyInput input)
    {
        var outcome = giveCopy.Do(requestContext.Viewer, slug, input, requestContext.Root);
        return outcome is Outcome<string>.Done { Value: var document }
                ? File(System.Text.Encoding.UTF8.GetBytes(document), "text/calendar; charset=utf-8", $"{slug}-copy.ics")
            : outcome is Outcome<string>.Refused { Problems: var problems } ? CopyAgain(slug, input, problems)
            : Answers.Of(outcome);
    }

    public IActionResult OnPostSendCopy(Slug slug, [FromForm(Name = "copy")] CopyInput input)
    {
        var outcome = giveCopy.Send(requestContext.Viewer, slug, input);
        return this.Back(
            outcome,
            $"/calendars/{slug}/publishing",
            count =>
                input.To == CopyTo.Me
                    ? "The copy is on its way to you."
                    : $"The copy is on its way to {Wording.Count(count, "person", "people")}.",
            refused => CopyAgain(slug, input, refused.Problems)
        );
    }

    private IActionResult CopyAgain(Slug slug, CopyInput input, IReadOnlyList<Problem> problems)
    {
        // Their names, as the form has them.
        (Problems, Copied) = ([.. problems.Select(problem => problem with { Field = $"copy.{problem.Field}" })], input);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return OnGet(slug);
    }

    /// <summary>The outlet whose form was sent, and to be mended; null where none was.</summary>
    public long? Changing { get; private set; }

    public IActionResult OnPostChange(Slug slug, long id, int version, [FromForm] PublicationInput input)
    {
        var outcome = publications.Change(requestContext.Viewer, slug, new PublicationId(id), input, version);
        if (outcome is not Outcome<PublicationWithToken>.Refused { Problems: var problems })
            return Settle(slug, outcome, one => $"{one.Name} is changed. Its address is the same.");
        (Problems, Input, Changing) = (problems, input, id);
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return OnGet(slug);
    }

    public IActionResult OnPostPause(Slug slug, long id, int version, bool paused) =>
        Settle(slug, publications.Pause(requestContext.Viewer, slug, new PublicationId(id), paused, version), one =>
            paused
                ? $"{one.Name} is paused: whoever has its address sees that, and nothing else."
                : $"{one.Name} goes on."
        );

    public IActionResult OnPostRenew(Slug slug, long id, int version) =>
        Settle(slug, publications.Renew(requestContext.Viewer, slug, new PublicationId(id), version), one =>
            $"{one.Name} has a new address. The old one no longer works."
        );

    public IActionResult OnPostRevoke(Slug slug, long id, int version) =>
        Settle(slug, publications.Revoke(requestContext.Viewer, slug, new PublicationId(id), version), one =>
            $"{one.Name} is turned off for good."
        );

    public IActionResult OnPostOffer(Slug slug, long id, int version, bool offered) =>
        Settle(slug, publications.Offer(requestContext.Viewer, slug, new PublicationId(id), offered, version), one =>
            offered
                ? $"The class page offers {one.Name} for subscription now."
                : $"The class page does not offer {one.Name} any more. Those who have its address keep it."
        );

    public IActionResult OnPostRevokeUnreadable(Slug slug, long id)
    {
        var outcome = publications.RevokeUnreadable(requestContext.Viewer, slug, new PublicationId(id));
        if (!outcome.IsDone)
            return Answers.Of(outcome);
        TempData[TempDataKeys.Said] = "It is turned off for good.";
        return Redirect($"/calendars/{slug}/publishing");
    }

    private IActionResult Settle(Slug slug, Outcome<PublicationWithToken> outcome, Func<Publication, string> said)
    {
        if (outcome is not Outcome<PublicationWithToken>.Done { Value: var (publication, _) })
            return Answers.Of(outcome);
        TempData[TempDataKeys.Said] = said(publication);
        return Redirect($"/calendars/{slug}/publishing");
    }
}
