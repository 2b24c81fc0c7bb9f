using System.Globalization;
using System.Security.Cryptography;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.People;
using Microsoft.AspNetCore.DataProtection;

namespace JollyAlmanac.Web.Serving;

/// <summary>What a browser carries from the right password to the code of the second factor: for five minutes, and unreadable.</summary>
public sealed class CodeTicket(IDataProtectionProvider protection)
{
    private readonly ITimeLimitedDataProtector protector = protection
        .CreateProtector("second factor")
        .ToTimeLimitedDataProtector();

    /// <summary>The ticket of somebody whose password was right.</summary>
    public string Of(SignInAnswer.AskCode asked) =>
        protector.Protect($"{asked.Person.Value} {asked.Stamp}", TimeSpan.FromMinutes(5));

    /// <summary>Whose it is; null where it is none, or too old.</summary>
    public (PersonId Person, string Stamp)? Read(string? ticket)
    {
        try
        {
            return protector.Unprotect(ticket ?? "").Split(' ') is [var id, var stamp]
                ? (new PersonId(long.Parse(id, CultureInfo.InvariantCulture)), stamp)
                : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
