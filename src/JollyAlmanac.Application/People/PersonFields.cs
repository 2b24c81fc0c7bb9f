using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Application.People;

/// <summary>Reads what a form says of a person.</summary>
internal static class PersonFields
{
    public const int LongestName = 120;

    public static (string Name, EmailAddress? Email) Read(
        FormReader entry,
        string? name,
        string? email,
        string? password,
        string prefix,
        bool needsEmail = true
    )
    {
        var called = entry.Line(prefix + "Name", name, "The name", LongestName, needed: true);
        var written = entry.Line(
            prefix + "Email",
            email,
            "The e-mail address",
            EmailAddress.Longest,
            needed: needsEmail
        );
        EmailAddress? address = EmailAddress.TryParse(written, null, out var read) ? read : null;
        if (address is null && written.Length > 0)
            entry.Wrong(prefix + "Email", "That is no e-mail address. Write it like orla@skerry.example.");
        if (password is not null && PasswordRules.WhyNot(password, called, address) is { } reason)
            entry.Wrong(prefix + "Password", reason);
        return (called, address);
    }
}
