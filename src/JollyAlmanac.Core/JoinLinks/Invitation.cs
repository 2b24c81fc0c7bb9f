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
        var lines = (text.Length > LongestText ? text[..LongestText] : text).ReplaceLineEndings("\n").Split('\n').Select(Plain).ToArray();
        var target = AddressIn(lines);
        var topic = Labelled(lines, TopicLabel());
        // "Dial in: …, conference code …" is for the telephone alone.
        var meetingId = Labelled([.. lines.Where(line => !((Telephones().IsMatch(line) || line.EndsWith('#')) && line.Contains("code", StringComparison.OrdinalIgnoreCase) && !WebAddresses().IsMatch(line) && !IdWord().IsMatch(line)))], MeetingIdLabel());
        var passcode = PasscodeOf(Labelled(lines, PasscodeLabel()));
        if (passcode.Length == 0) passcode = PasscodeOf(PinIn(lines));
        var dialIn = DialIns(lines);
        if (target is not null) target = target with { MeetingId = IdOnly(meetingId), Passcode = passcode, DialIn = dialIn };
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

    // A row of a table, "| Password | tide-9 |", becomes "Password: tide-9"; marks of quoting and of bold print go.
    private static string Plain(string line)
    {
        line = line.Replace("**", "", StringComparison.Ordinal).Trim().TrimStart('>', '•', '*').Trim();
        var cells = line.Split(['|', '\t'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return cells.Length == 2 && (line.Contains('|', StringComparison.Ordinal) || line.Contains('\t', StringComparison.Ordinal)) ? $"{cells[0].TrimEnd(':')}: {cells[1]}" : line;
    }

    // A PIN that goes with a telephone number opens the line, not the room.
    private static string PinIn(string[] lines)
    {
        for (var at = 0; at < lines.Length; at++)
        {
            if (PinLabel().Match(lines[at]) is not { Success: true } match) continue;
            if (lines.Skip(Math.Max(0, at - 2)).Take(4).Any(line => Telephones().IsMatch(line) || PhoneWords().IsMatch(line)) || lines[at].TrimEnd().EndsWith('#')) continue;
            return lines[at][(match.Index + match.Length)..].Trim();
        }

        return "";
    }

    // What stands after a label, where it is a passcode: not "none", and not a sentence.
    private static string PasscodeOf(string text)
    {
        var end = text.IndexOfAny(['(', ')', ',', ';', '\t']);
        var value = (end >= 0 ? text[..end] : text).Split("  ")[0];
        if (NextLabel().Match(value) is { Success: true, Index: > 0 } next) value = value[..next.Index];
        value = value.Trim().Trim('-', '–', '|', '`', '"', '“', '”', '»', '«', '[', ']').TrimEnd('.').Trim();
        var words = value.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length is 0 or > 2 || NoValue().IsMatch(value) || value.Length > 60 ? "" : value;
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

    private static string IdOnly(string text) => IdPattern().Match(NextLabel().Match(text) is { Success: true, Index: > 0 } next ? text[..next.Index] : text) is { Success: true } match ? match.Value.Trim().TrimEnd('-').Trim() : "";

    private static string Digits(string text) => string.Concat(text.Where(char.IsAsciiDigit));

    [GeneratedRegex(@"https?://[^\s<>""]+", RegexOptions.IgnoreCase)]
    private static partial Regex WebAddresses();

    // Labels in English, German, French, Spanish and Portuguese, as such texts commonly have them; from memory, no source.
    [GeneratedRegex(@"\b(join|enter|click|link|room|meeting (address|url)|url|web|beitreten|teilnehmen|raum|rejoindre|participer|lien|unirse|unirte|entrar|enlace|sala|ingressar|participar)\b", RegexOptions.IgnoreCase)]
    private static partial Regex JoinWords();

    [GeneratedRegex(@"\b(local numbers?|find (your|a) |dial-?in numbers|help|support|privacy|unsubscribe|options|learn more|test|hilfe|datenschutz|aide|ayuda|ajuda)\b|/(dial|numbers|phones?|help|legal|privacy)\b", RegexOptions.IgnoreCase)]
    private static partial Regex OtherWords();

    [GeneratedRegex(@"^\s*(topic|subject|title|what|thema|betreff|sujet|objet|asunto|tema|assunto|tópico)\s*:\s*", RegexOptions.IgnoreCase)]
    private static partial Regex TopicLabel();

    [GeneratedRegex(@"\b(meeting|conference|room|event|webinar|besprechungs|konferenz|raum|sitzungs)[\s-]*(id|number|no\.?|code|nummer|kennung)\b(\s*\([^)]*\))?( is)?\s*[:#]?\s*|\b(id|num[ée]ro|número|n[°º])\s+(de\s+la|de\s+l[’']|de|da|do)\s*(réunion|conférence|reunión|reunião|sala|salle)\s*:?\s*|^\s*(id|access code)\s*[:#=]\s*", RegexOptions.IgnoreCase)]
    private static partial Regex MeetingIdLabel();

    [GeneratedRegex(@"\b(pass ?code|password|pw|security code|kenncode|kennwort|passwort|zugangscode|mot de passe|code secret|code d[’']accès|contraseña|código de acceso|clave|senha de acesso|senha|código de acesso|palavra-passe)\b(\s*\([^)]*\))?(\s+(is|ist|est|es|é))?(\s*[:=#]\s*|\s+(?=\S+$)|\s*$|(?<=\b(is|ist|est|es|é))\s+)", RegexOptions.IgnoreCase)]
    private static partial Regex PasscodeLabel();

    [GeneratedRegex(@"\bpin\b\s*(is|ist)?\s*[:=#]?\s+", RegexOptions.IgnoreCase)]
    private static partial Regex PinLabel();

    [GeneratedRegex(@"\b(dial|phone|telephone|telefon|téléphone|teléfono|telefone|call|audio|host|mobile)\b", RegexOptions.IgnoreCase)]
    private static partial Regex PhoneWords();

    [GeneratedRegex(@"\b(id|number)\b", RegexOptions.IgnoreCase)]
    private static partial Regex IdWord();

    [GeneratedRegex(@"\s\p{L}[\p{L} ]{2,20}:")]
    private static partial Regex NextLabel();

    [GeneratedRegex(@"^(none|no|not|nil|n/a|-|–|—|kein|keine|keins|aucun|aucune|ninguno|ninguna|nenhum|nenhuma|required|needed|necessary|optional|see below)\b|^[-–—]*$", RegexOptions.IgnoreCase)]
    private static partial Regex NoValue();

    [GeneratedRegex(@"\+\d[\d ().\-]{6,22}\d|\(\d{3}\)\s?\d{3}[\- ]\d{4}|\b\d{3}[.\-]\d{3}[.\-]\d{4}\b")]
    private static partial Regex Telephones();

    [GeneratedRegex(@"^[0-9A-Za-z][0-9A-Za-z \-]{2,30}")]
    private static partial Regex IdPattern();
}
