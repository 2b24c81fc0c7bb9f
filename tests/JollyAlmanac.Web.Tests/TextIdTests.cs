using System.Net;
using System.Reflection;
using JollyAlmanac.Application;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Web.Tests;

/// <summary>Ids that are texts: which types they have, and what is no id at the addresses that carry one.</summary>
public sealed class TextIdTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly HashSet<string> Names = new(
        [.. TextIds().Select(type => type.Name), "Email", "EmailAddresses", "Slugs"],
        StringComparer.OrdinalIgnoreCase
    );

    private static IEnumerable<Type> TextIds() =>
        typeof(Slug)
            .Assembly.GetExportedTypes()
            .Where(type => type.IsValueType)
            .Where(type =>
                type.GetInterfaces()
                    .Any(one => one.IsGenericType && one.GetGenericTypeDefinition() == typeof(ITextId<>))
            );

    /// <summary>What a form says stays as it was typed, to be shown again beside what is wrong with it.</summary>
    [Fact]
    public void Members_that_are_named_for_an_id_are_of_its_type()
    {
        Assert.Equal(6, TextIds().Count());
        Assembly[] assemblies =
        [
            typeof(Slug).Assembly,
            typeof(Stores).Assembly,
            typeof(Gate).Assembly,
            typeof(Formats.CsvTable).Assembly,
        ];
        var bare = assemblies
            .SelectMany(assembly => assembly.GetExportedTypes())
            .Where(type => !type.Name.EndsWith("Input", StringComparison.Ordinal) && type.Name != "NewPerson")
            .SelectMany(type =>
                type.GetProperties()
                    .Select(one => (type, one.Name, Type: one.PropertyType))
                    .Concat(
                        type.GetMethods()
                            .Concat<MethodBase>(type.GetConstructors())
                            .SelectMany(method => method.GetParameters())
                            .Select(one => (type, Name: one.Name ?? "", Type: one.ParameterType))
                    )
            )
            .Where(one => Names.Contains(one.Name) && IsText(one.Type))
            .Select(one => $"{one.type.Name}.{one.Name}")
            .Distinct();
        Assert.Empty(bare);
    }

    private static bool IsText(Type type) =>
        type == typeof(string) || (type.IsGenericType && type.GetGenericArguments().Contains(typeof(string)));

    [Theory]
    [InlineData("/calendars/Tidepool%20Biology")]
    [InlineData("/calendars/tidepool_biology/sharing")]
    [InlineData("/c/a..b")]
    [InlineData("/c/61-characters-are-one-more-than-a-slug-may-have-and-no-calendar")]
    [InlineData("/m/not-a-key")]
    [InlineData("/m/0123456789abcdefghjkmnpqrI/look")]
    [InlineData("/embed/0123456789")]
    [InlineData("/embed/0123456789/picture.svg")]
    [InlineData("/feeds/0123456789.ics")]
    [InlineData("/feeds/0123456789.atom")]
    [InlineData("/in/tide_pool")]
    [InlineData("/in/tide.pool/enter")]
    [InlineData("/oembed?url=http://127.0.0.1/embed/0123456789")]
    public async Task What_cannot_be_an_id_leads_nowhere(string path)
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        using var answer = await client.GetAsync(path, TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
    }

    /// <summary>Phones begin what is typed with a capital letter, and a code is copied from paper.</summary>
    [Fact]
    public async Task A_short_address_may_be_typed_in_capitals()
    {
        using var client = await server.SignedIn(DemoServer.Teacher);
        var address = server.Address("short address");
        using var answer = await client.GetAsync(
            $"/in/{address[(address.LastIndexOf('/') + 1)..].ToUpperInvariant()}?look=1",
            TestContext.Current.CancellationToken
        );
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
    }
}
