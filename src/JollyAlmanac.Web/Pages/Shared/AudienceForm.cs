using JollyAlmanac.Application;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>The part of a form that says for whom alone something is.</summary>
/// <param name="Field">The name of its field; that of the others ends with "Others".</param>
/// <param name="ForAll">What is said while it is for all.</param>
/// <param name="Hint">What it means.</param>
/// <param name="Choices">Whom it can be for.</param>
/// <param name="Ticked">Whom it is for, as typed.</param>
/// <param name="Others">Others, as typed.</param>
/// <param name="Problems">What is wrong with the form.</param>
public sealed record AudienceForm(
    string Field,
    string ForAll,
    string Hint,
    AudienceChoices Choices,
    IReadOnlyList<string>? Ticked,
    string? Others,
    IReadOnlyList<Problem> Problems
)
{
    /// <summary>The id of the part, where several forms of the page have one; null for the field's name.</summary>
    public string? Id { get; init; }
}
