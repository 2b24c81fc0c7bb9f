namespace JollyAlmanac.Web.Pages.Shared;

/// <summary>What to do, and whom to ask, where something does not work.</summary>
/// <param name="School">What the school says of it; empty for nothing.</param>
/// <param name="Contact">Whom to ask about this calendar; empty for nobody in particular.</param>
public sealed record WhomToAsk(string School, string Contact = "");
