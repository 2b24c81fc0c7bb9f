using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Parsing;

namespace JollyAlmanac.Application.People;

/// <summary>Reads what a form says of a person.</summary>
internal static class PersonFields
{
    public const int LongestName = 120;

    public static (string Name, string Email) Read(
        FormReader entry,
        string? name,
        string? email,
        string? password,
        string prefix,
        bool needsEmail = true
    )
    {
        var called = entry.Line(prefix + "Name", name, "The name", LongestName, needed: true);
        var address = entry.Line(
            prefix + "Email",
            email,
            "The e-mail address",
            AddressList.LongestAddress,
            needed: needsEmail
        );
        if (address.Length > 0 && !AddressList.IsAddress(address))
            entry.Wrong(prefix + "Email", "That is no e-mail address. Write it like orla@skerry.example.");
        if (password is not null && PasswordRules.WhyNot(password, called, address) is { } reason)
            entry.Wrong(prefix + "Password", reason);
        return (called, address);
    }
}
