using System.Net;
using JollyAlmanac.Demo;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Mvc.Infrastructure;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.RazorPages.Infrastructure;
using Microsoft.AspNetCore.Routing;
using Microsoft.AspNetCore.StaticAssets;
using Microsoft.Extensions.DependencyInjection;

namespace JollyAlmanac.Web.Tests;

/// <summary>The table of <c>routes.txt</c>, every route and handler x every kind of person, held over HTTP.</summary>
public sealed class RouteTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;

    private static readonly string[] Kinds =
    [
        "no access",
        "colleague, busy",
        "colleague, outline",
        "student",
        "family",
        "contributor",
        "co-teacher",
        "teacher",
        "coordinator",
    ];

    private sealed record Row(string Route, string Path, string Cells);

    private static IReadOnlyList<Row> Rows() =>
        [
            .. File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "routes.txt"))
                .Where(line => line is not ("" or ['#', ..]))
                .Select(line => line.Split(" | ").Select(part => part.Trim()).ToArray())
                .Select(parts => new Row(parts[0], parts[1], parts[2])),
        ];

    [Fact]
    public async Task Every_route_and_handler_has_its_row()
    {
        var routes = new List<string>();
        var loader = server.Services.GetRequiredService<PageLoader>();
        foreach (
            var page in server
                .Services.GetRequiredService<IActionDescriptorCollectionProvider>()
                .ActionDescriptors.Items.OfType<PageActionDescriptor>()
        )
        {
            var compiled = await loader.LoadAsync(page, EndpointMetadataCollection.Empty);
            routes.AddRange(
                compiled.HandlerMethods.Select(handler =>
                    $"{handler.HttpMethod.ToUpperInvariant()} /{page.AttributeRouteInfo!.Template!.TrimStart('/')}{(handler.Name is null ? "" : $"?handler={handler.Name}")}"
                )
            );
            if (compiled.HandlerMethods.Count == 0)
                routes.Add($"GET /{page.AttributeRouteInfo!.Template!.TrimStart('/')}");
        }

        routes.AddRange(
            server
                .Services.GetRequiredService<EndpointDataSource>()
                .Endpoints.OfType<RouteEndpoint>()
                .Where(one =>
                    one.Metadata.GetMetadata<PageActionDescriptor>() is null
                    && one.Metadata.GetMetadata<StaticAssetDescriptor>() is null
                )
                .Select(one => $"GET /{one.RoutePattern.RawText!.TrimStart('/')}")
        );
        Assert.InRange(routes.Count, 100, 300);
        Assert.Equal(
            routes.Distinct(StringComparer.OrdinalIgnoreCase).Order(StringComparer.OrdinalIgnoreCase),
            Rows()
                .Select(row => row.Route)
                .Distinct(StringComparer.OrdinalIgnoreCase)
                .Order(StringComparer.OrdinalIgnoreCase),
            StringComparer.OrdinalIgnoreCase
        );
    }

    [Fact]
    public async Task Each_is_answered_as_the_table_says()
    {
        var wrong = new List<string>();
        var rows = Rows();
        var got = rows.ToDictionary(row => row, _ => "");
        foreach (var kind in Kinds.Prepend("stranger"))
        {
            using var client =
                kind == "stranger"
                    ? server.Client()
                    : await server.SignedInAnew(DemoStory.SignIns.People.Single(one => one.Kind == kind).Email);
            var token = DemoServer.TokenOf(
                await client.GetStringAsync(kind == "stranger" ? "/sign-in" : "/account", Stop)
            );
            // Signing out is done last, as nobody is anybody after it.
            foreach (var row in rows.OrderBy(row => row.Path == "/sign-out"))
                got[row] += await Letter(client, row, token);
        }

        foreach (var row in rows.Where(row => row.Cells.Replace(" ", "", StringComparison.Ordinal) != got[row]))
            wrong.Add($"{row.Route} | {row.Path} | {got[row][..1]} {got[row][1..]}  in place of {row.Cells}");
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));
    }

    private static async Task<string> Letter(HttpClient client, Row row, string token)
    {
        using var answer = row.Route.StartsWith("POST ", StringComparison.Ordinal)
            ? await client.PostAsync(
                new Uri(row.Path, UriKind.Relative),
                new FormUrlEncodedContent([KeyValuePair.Create("__RequestVerificationToken", token)]),
                Stop
            )
            : await client.GetAsync(new Uri(row.Path, UriKind.Relative), Stop);
        return answer.StatusCode switch
        {
            HttpStatusCode.NotFound => ".",
            HttpStatusCode.Forbidden => "-",
            HttpStatusCode.Redirect
                when answer.Headers.Location?.OriginalString.StartsWith("/sign-in?next", StringComparison.Ordinal)
                    is true => "s",
            HttpStatusCode.BadRequest or HttpStatusCode.InternalServerError or HttpStatusCode.TooManyRequests => "!",
            _ => "+",
        };
    }
}
