using JollyAlmanac.Application.SignIn;

namespace JollyAlmanac.Web.Serving;

/// <summary>Counts who asks for new passwords, by network.</summary>
public sealed class ResetLimiter
{
    private readonly AttemptLimiter asked = new(60, TimeSpan.FromHours(1));

    /// <summary>Counts one.</summary>
    /// <returns>False where there were too many.</returns>
    public bool Take(RequestContext requestContext) => asked.Take(requestContext.Network);
}
