using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Core.Tests;

/// <summary>What becomes an id, and what does not.</summary>
public sealed class TextIdTests
{
    private static string? Read<T>(string? text)
        where T : struct, ITextId<T> => T.TryParse(text, null, out var id) ? id.Value : null;

    private static string? Read(string type, string? text) =>
        type switch
        {
            "slug" => Read<Slug>(text),
            "code" => Read<JoinCode>(text),
            "key" => Read<MaterialKey>(text),
            "upload" => Read<UploadKey>(text),
            "token" => Read<FeedToken>(text),
            _ => Read<EmailAddress>(text),
        };

    // RFC 5321 §4.1.2 and §4.5.3.1 for e-mail addresses; the others are the almanac's own.
    [Theory]
    [InlineData("slug", "tidepool-9a", "tidepool-9a")]
    [InlineData("slug", "Tidepool", null)]
    [InlineData("slug", "", null)]
    [InlineData("slug", null, null)]
    [InlineData("slug", "a/b", null)]
    [InlineData("slug", "a b", null)]
    [InlineData("code", "Tidepool-7K4MQX", "tidepool-7k4mqx")]
    [InlineData("code", "tide", "tide")]
    [InlineData("code", "tide_pool", null)]
    [InlineData("code", "", null)]
    [InlineData("key", "0123456789abcdefghjkmnpqrs", "0123456789abcdefghjkmnpqrs")]
    [InlineData("key", "0123456789abcdefghjkmnpqr", null)]
    [InlineData("key", "0123456789abcdefghjkmnpqrst", null)]
    [InlineData("key", "0123456789abcdefghijkmnpqr", null)]
    [InlineData("key", "0123456789ABCDEFGHJKMNPQRS", null)]
    [InlineData("upload", "../../almanac.db/abcdefghj", null)]
    [InlineData("upload", "0123456789abcdefghjkmnpqrs", "0123456789abcdefghjkmnpqrs")]
    [InlineData("token", "0123456789abcdefghjkmnpqrs", "0123456789abcdefghjkmnpqrs")]
    [InlineData("token", null, null)]
    [InlineData("mail", "Orla@skerry.example", "Orla@skerry.example")]
    [InlineData("mail", "orla@skerry", null)]
    [InlineData("mail", "orla..m@skerry.example", null)]
    [InlineData("mail", " orla@skerry.example", null)]
    [InlineData("mail", "orla@skerry.example\r\nBcc: x@skerry.example", null)]
    [InlineData("mail", "orla@skerry.example\n", null)]
    [InlineData("mail", "", null)]
    public void Text_is_an_id_or_none(string type, string? text, string? id) => Assert.Equal(id, Read(type, text));

    [Theory]
    [InlineData("slug", 60)]
    [InlineData("code", 40)]
    public void The_longest_is_read_and_one_letter_more_is_not(string type, int longest)
    {
        Assert.NotNull(Read(type, new string('a', longest)));
        Assert.Null(Read(type, new string('a', longest + 1)));
    }

    [Fact]
    public void An_address_has_254_characters_at_most_and_is_the_same_in_capitals()
    {
        const string Domain = "@skerry.example";
        Assert.NotNull(Read("mail", new string('a', 254 - Domain.Length) + Domain));
        Assert.Null(Read("mail", new string('a', 255 - Domain.Length) + Domain));
        var (one, other) = (new EmailAddress("Orla@Skerry.example"), new EmailAddress("orla@skerry.example"));
        Assert.Equal(one, other);
        Assert.Equal(one.GetHashCode(), other.GetHashCode());
        Assert.NotEqual(one, new EmailAddress("ola@skerry.example"));
        Assert.Equal(("Orla", "Skerry.example"), (one.LocalPart, one.Domain));
    }

    /// <summary>What is new is read again; two are never the same.</summary>
    [Fact]
    public void New_keys_are_keys()
    {
        var keys = Enumerable.Range(0, 200).Select(_ => MaterialKey.New().Value).ToList();
        Assert.All(keys, key => Assert.Equal(key, Read("key", key)));
        Assert.Equal(200, keys.Distinct().Count());
        Assert.NotNull(Read("upload", UploadKey.New().Value));
        Assert.Equal("0123", TokenText.Of([0, 1, 2, 32 + 3, .. new byte[22]])[..4]);
    }

    [Fact]
    public void A_numbered_slug_is_a_slug()
    {
        var longest = new Slug(new string('a', 60));
        Assert.Equal("tidepool-2", new Slug("tidepool").Numbered(2).Value);
        Assert.NotNull(Read("slug", longest.Numbered(10_000).Value));
        Assert.Equal("ab-3", new Slug("ab-").Numbered(3).Value);
    }
}
