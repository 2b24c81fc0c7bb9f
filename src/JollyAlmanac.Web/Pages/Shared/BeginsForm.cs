using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;

namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>The fields of how a calendar begins, with what is wrong with them.</summary>
public sealed record BeginsForm(CalendarDefaultsInput Input, IReadOnlyList<Problem> Problems);
