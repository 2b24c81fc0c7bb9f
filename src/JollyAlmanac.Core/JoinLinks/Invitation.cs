using System.Collections.Immutable;
using System.Text.RegularExpressions;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>
/// What a pasted invitation text says of a room. Example: "Join: https://rooms.example/881?pwd=x / Meeting ID: 881 220 /
/// Passcode: kelp / Dial in: +1 902 555 0199". Works by labels that such texts share, in any order and layout; what is not
/// found stays empty, and nothing is made up.
/// </summary>
/// <param name="Topic">What the meeting is called; empty where the text does not say.</param>
/// <param name="Target">The address with its parts; null where the text holds no web address.</param>
/// <param name="Found">What was found, in words, for people to confirm.</param>
public sealed partial record Invitation(string Topic, JoinTarget? Target, ImmutableArray<string> Found)
{
    private const int LongestText = 20_000;

    /// <summary>Takes a text apart.</summary>
    public static Invitation Read(string text)
    {
        var lines = (text.Length > LongestText ? text[..LongestText] : text).ReplaceLineEndings("\n").Split('\n', StringSplitOptions.TrimEntries);
        var target = AddressIn(lines);
        var topic = Labelled(lines, TopicLabel());
        var meetingId = Labelled(lines, MeetingIdLabel());
        var passcode = Labelled(lines, PasscodeLabel());
        var dialIn = DialIns(lines);
        if (target is not null) target = target with { MeetingId = IdOnly(meetingId), Passcode = FirstWord(passcode), DialIn = dialIn };
        var found = ImmutableArray.CreateBuilder<string>();
        if (topic.Length > 0) found.Add($"the topic “{topic}”");
        if (target is not null) found.Add($"a room at {target.Address.IdnHost}");
        if (target?.PasscodeInside is not null) found.Add("a passcode inside the address");
        if (target?.MeetingId.Length > 0) found.Add($"the meeting id {target.MeetingId}");
        if (target?.Passcode.Length > 0) found.Add("a passcode");
        if (target is not null && dialIn.Length > 0) found.Add(dialIn.Length == 1 ? "a telephone number" : $"{dialIn.Length} telephone numbers");
        return new Invitation(topic, target, found.ToImmutable());
    }

    /// <summary>The best web address: beside a word like "join" before any other, and never one that only lists numbers or helps.</summary>
    private static JoinTarget? AddressIn(string[] lines)
    {
        JoinTarget? best = null;
        var bestWeight = int.MinValue;
        for (var at = 0; at < lines.Length; at++)
        {
            foreach (Match match in WebAddresses().Matches(lines[at]))
            {
                if (JoinTarget.Read(match.Value.TrimEnd('.', ',', ';', ')', '>', ']', '"', '\'')).Target is not { } target) continue;
                var beside = lines[at].Replace(match.Value, "", StringComparison.Ordinal) + " " + (at > 0 ? lines[at - 1] : "");
                var weight = (JoinWords().IsMatch(beside) ? 2 : 0) + (target.PasscodeInside is null ? 0 : 1) - (OtherWords().IsMatch(lines[at]) ? 4 : 0);
                if (weight <= bestWeight) continue;
                (best, bestWeight) = (target, weight);
            }
        }

        return best;
    }

    // The text after a label on its line, or the next line where the label stands alone.
    private static string Labelled(string[] lines, Regex label)
    {
        for (var at = 0; at < lines.Length; at++)
        {
            if (label.Match(lines[at]) is not { Success: true } match) continue;
            var rest = lines[at][(match.Index + match.Length)..].Trim();
            if (rest.Length == 0 && at + 1 < lines.Length) rest = lines.Skip(at + 1).FirstOrDefault(line => line.Length > 0) ?? "";
            if (rest.Length is > 0 and <= 200) return rest;
        }

        return "";
    }

    private static ImmutableArray<string> DialIns(string[] lines)
    {
        var numbers = new List<string>();
        foreach (var line in lines)
        {
            if (WebAddresses().IsMatch(line)) continue;
            foreach (Match match in Telephones().Matches(line))
            {
                var number = match.Value.Trim();
                if (number.Count(char.IsAsciiDigit) is < 7 or > 15 || numbers.Exists(known => Digits(known).StartsWith(Digits(number), StringComparison.Ordinal))) continue;
                var place = line[(match.Index + match.Length)..].Trim(' ', '(', ')', ',', '-', '–');
                numbers.Add(place.Length is > 0 and <= 40 && place.All(letter => char.IsLetter(letter) || letter is ' ' or '(' or ')' or '.' or ',') ? $"{number} ({place.Trim('(', ')')})" : number);
            }
        }

        return [.. numbers.Take(10)];
    }

    private static string IdOnly(string text) => IdPattern().Match(text) is { Success: true } match ? match.Value.Trim() : "";

    private static string FirstWord(string text) => text.Split([' ', '\t', ',', ';', ')', '('], StringSplitOptions.RemoveEmptyEntries).FirstOrDefault() ?? "";

    private static string Digits(string text) => string.Concat(text.Where(char.IsAsciiDigit));

    [GeneratedRegex(@"https?://[^\s<>""]+", RegexOptions.IgnoreCase)]
    private static partial Regex WebAddresses();

    [GeneratedRegex(@"\b(join|enter|click|link|room|meeting (address|url)|url|web)\b", RegexOptions.IgnoreCase)]
    private static partial Regex JoinWords();

    [GeneratedRegex(@"\b(local numbers?|find (your|a) |dial-?in numbers|help|support|privacy|unsubscribe|options|learn more|test)\b|/(dial|numbers|phones?|help|legal|privacy)\b", RegexOptions.IgnoreCase)]
    private static partial Regex OtherWords();

    [GeneratedRegex(@"^\s*(topic|subject|title|what)\s*:\s*", RegexOptions.IgnoreCase)]
    private static partial Regex TopicLabel();

    [GeneratedRegex(@"\b(meeting|conference|room|event|webinar)\s*(id|number|no\.?|code)\b( is)?\s*[:#]?\s*|^\s*(id|access code)\s*[:#]\s*", RegexOptions.IgnoreCase)]
    private static partial Regex MeetingIdLabel();

    [GeneratedRegex(@"\b(pass ?code|password|security code|pin)\b( is)?\s*[:#]?\s*(?=\S*$|\S+\s*\(?)|^\s*(pass ?code|password|pin)\s*$", RegexOptions.IgnoreCase)]
    private static partial Regex PasscodeLabel();

    [GeneratedRegex(@"\+\d[\d ().\-]{6,22}\d|\(\d{3}\)\s?\d{3}[\- ]\d{4}")]
    private static partial Regex Telephones();

    [GeneratedRegex(@"^[0-9A-Za-z][0-9A-Za-z \-]{2,30}")]
    private static partial Regex IdPattern();
}
