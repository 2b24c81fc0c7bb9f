namespace JollyAlmanac.Demo;

/// <summary>The people of the demo that one may sign in as.</summary>
/// <param name="People">Name, what they are, e-mail address.</param>
/// <param name="Password">The same for all of them.</param>
public sealed record DemoSignIns(IReadOnlyList<(string Name, string Kind, string Email)> People, string Password);
