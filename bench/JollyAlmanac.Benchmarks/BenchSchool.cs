using System.Net;
using System.Text.RegularExpressions;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.People;

/// <summary>What every bench begins with: a school, its coordinator, and a browser of theirs.</summary>
internal static partial class BenchSchool
{
    /// <summary>The coordinator's address.</summary>
    public const string Mail = "wendeline@skerry.example";

    /// <summary>Their password.</summary>
    public const string Password = "a long password of mine";

    /// <summary>Makes the school with an autumn term.</summary>
    /// <returns>Its coordinator.</returns>
    public static PersonId Create(CreateSchool createSchool) =>
        Done(
            createSchool.Do(
                new SchoolInput(
                    "Skerry Isles School",
                    "America/Halifax",
                    "Monday",
                    "Autumn term",
                    "2026-09-08",
                    "2026-12-18",
                    "Wendeline Okafor",
                    Mail,
                    Password
                )
            )
        );

    /// <summary>A client that follows no redirects, signed in as the coordinator.</summary>
    public static async Task<HttpClient> SignedIn(Uri root)
    {
        var client = new HttpClient(
            new SocketsHttpHandler { CookieContainer = new CookieContainer(), AllowAutoRedirect = false }
        )
        {
            BaseAddress = root,
        };
        var token = Token().Match(await client.GetStringAsync("/sign-in")).Groups[1].Value;
        using var answer = await client.PostAsync(
            "/sign-in",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["Email"] = Mail,
                    ["Password"] = Password,
                    ["__RequestVerificationToken"] = token,
                }
            )
        );
        return client;
    }

    /// <summary>What an act gave; a bench goes on with nothing that was refused.</summary>
    /// <exception cref="InvalidOperationException">It was not done.</exception>
    public static T Done<T>(Outcome<T> outcome) =>
        outcome is Outcome<T>.Done { Value: var value }
            ? value
            : throw new InvalidOperationException(
                outcome is Outcome<T>.Refused refused ? string.Join(' ', refused.Problems) : $"The bench met {outcome}."
            );

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Token();
}
