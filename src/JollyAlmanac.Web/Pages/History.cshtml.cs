using System.Globalization;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Web.Pages.Shared;
using JollyAlmanac.Web.Serving;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace JollyAlmanac.Web.Pages;

/// <summary>Who did what in the school, and when. For coordinators.</summary>
public sealed class SchoolHistoryModel(SchoolHistoryQuery schoolHistoryQuery, RequestContext requestContext) : PageModel
{
    public SchoolHistory View { get; private set; } = null!;

    public HistoryFilter Filter { get; private set; } = new();

    public IActionResult OnGet(string? words, long? by, HistorySubject? about, long? before)
    {
        Filter = Read(words, by, about, before);
        var outcome = schoolHistoryQuery.Read(requestContext.Viewer, Filter);
        if (outcome is not Outcome<SchoolHistory>.Done { Value: var view })
            return Answers.Of(outcome);
        View = view;
        return Page();
    }

    public IActionResult OnGetExport(string? words, long? by, HistorySubject? about) =>
        schoolHistoryQuery.Export(requestContext.Viewer, Read(words, by, about, null)) switch
        {
            Outcome<byte[]>.Done { Value: var bytes } => File(bytes, "text/csv", "history.csv"),
            var other => Answers.Of(other),
        };

    /// <summary>The address of what is shown, from a line on.</summary>
    public string At(long? before, string? handler = null) =>
        "/history"
        + QueryString.Create(
            new Dictionary<string, string?>
            {
                ["words"] = Filter.Words.Length > 0 ? Filter.Words : null,
                ["by"] = Filter.By?.Value.ToString(CultureInfo.InvariantCulture),
                ["about"] = Filter.About?.ToString(),
                ["before"] = before?.ToString(CultureInfo.InvariantCulture),
                ["handler"] = handler,
            }.Where(one => one.Value is not null)
        );

    /// <summary>"join link".</summary>
    public static string Word(HistorySubject subject) =>
        subject switch
        {
            HistorySubject.JoinLink => "join link",
            HistorySubject.Outlet => "feed or embed",
            var other => other.ToString().ToLowerInvariant(),
        };

    private static HistoryFilter Read(string? words, long? by, HistorySubject? about, long? before) =>
        new(
            by is { } id ? new PersonId(id) : null,
            about,
            words?.Trim() is { Length: <= 100 } text ? text : "",
            before
        );
}
