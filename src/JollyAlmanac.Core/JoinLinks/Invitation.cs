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
/// <param name="Unclear">Lines that hold another room, or speak of a code, an id or a password of which nothing was taken, at most five:
/// a host's key, a
/// telephone's PIN, or a form of words that is not known.</param>
public sealed partial record Invitation(
    string Topic,
    JoinTarget? Target,
    ImmutableArray<string> Found,
    ImmutableArray<string> Unclear
)
{
    private const int LongestText = 20_000,
        MostUnclear = 5;

    /// <summary>Takes a text apart.</summary>
    /// <example>
    /// <code>
    /// Invitation.Read("Topic: Knots\nhttps://rooms.skerry.example/7\nPasscode: kelp22").Target!.Passcode // kelp22
    /// </code>
    /// </example>
    public static Invitation Read(string text)
    {
        var lines = (text.Length > LongestText ? text[..LongestText] : text)
            .ReplaceLineEndings("\n")
            // As a calendar file writes a line's end, and its comma and semicolon (RFC 5545 §3.3.11).
            .Replace("\\n", "\n", StringComparison.Ordinal)
            .Replace("\\N", "\n", StringComparison.Ordinal)
            .Replace("\\,", ",", StringComparison.Ordinal)
            .Replace("\\;", ";", StringComparison.Ordinal)
            .Split('\n')
            .Select(Plain)
            .SelectMany(line => line.Split([" | ", " / ", "; ", " · "], StringSplitOptions.TrimEntries))
            .ToArray();
        var target = AddressIn(lines);
        var topic = Labelled(lines, TopicLabel());
        // "Dial in: …, conference code …" is for the telephone alone.
        var roomLines = lines
            .Where(
                (line, at) =>
                    !IsForTelephone(line)
                    && !(
                        at > 0
                        && Telephones().IsMatch(lines[at - 1])
                        && line.Contains("access code", StringComparison.OrdinalIgnoreCase)
                    )
            )
            .ToArray();
        var meetingId = Labelled(roomLines, MeetingIdLabel());
        // Nor does what stands beside another address open this room.
        string[] secretLines =
        [
            .. lines.Where(line =>
                !OtherSecret().IsMatch(line)
                && (
                    target is null
                    || !WebAddresses().IsMatch(line)
                    || line.Contains(target.Address.OriginalString, StringComparison.Ordinal)
                )
            ),
        ];
        var passcode = PasscodeOf(Labelled(secretLines, PasscodeLabel()));
        if (passcode.Length == 0)
            passcode = PasscodeOf(PinIn(lines));
        // Less certain words only where the certain ones gave nothing.
        var id = IdOnly(meetingId);
        if (passcode.Length == 0)
            passcode = PasscodeOf(
                Labelled(
                    [
                        .. secretLines.Where(line =>
                            !OtherCode().IsMatch(line)
                            && !Telephones().IsMatch(line)
                            && !line.EndsWith('#')
                            && (id.Length == 0 || !line.Contains(id, StringComparison.Ordinal))
                        ),
                    ],
                    WeakPasscodeLabel()
                )
            );
        if (id.Length == 0)
            id = IdOnly(Labelled(roomLines, WeakIdLabel()));
        var dialIn = DialIns(lines);
        if (target is not null)
            target = target with { MeetingId = id, Passcode = passcode, DialIn = dialIn };
        var found = ImmutableArray.CreateBuilder<string>();
        if (topic.Length > 0)
            found.Add($"the topic “{topic}”");
        if (target is not null)
            found.Add($"a room at {target.Address.IdnHost}");
        if (target?.PasscodeInside is not null)
            found.Add("a passcode inside the address");
        if (target?.MeetingId.Length > 0)
            found.Add($"the meeting id {target.MeetingId}");
        if (target?.Passcode.Length > 0)
            found.Add("a passcode");
        if (target is not null && dialIn.Length > 0)
            found.Add(dialIn.Length == 1 ? "a telephone number" : $"{dialIn.Length} telephone numbers");
        var others = target is null ? [] : OtherRooms(lines, target);
        return new Invitation(
            topic,
            target,
            found.ToImmutable(),
            target is null
                ? []
                :
                [
                    .. others
                        .Concat(lines.Where(line => IsUnclear(line, target)))
                        .Concat(Continuations(lines, target))
                        .Concat(passcode.Length == 0 ? lines.Where(IsUnknownLabel) : [])
                        .Distinct()
                        .Take(MostUnclear),
                ]
        );
    }

    // An address that was broken off at a line's end, as mail programs do: whether the next line belongs to it is told, and not decided.
    private static IEnumerable<string> Continuations(string[] lines, JoinTarget target) =>
        lines.Where(
            (line, at) =>
                at > 0
                && line.Length > 0
                && !line.Any(letter => char.IsWhiteSpace(letter) || letter is ':')
                && lines[at - 1].EndsWith(target.Address.OriginalString, StringComparison.Ordinal)
                && target.Address.OriginalString[^1] is '-' or '/' or '=' or '&' or '?' or '%' or '_'
        );

    // "Salasana: ahven7": perhaps a passcode in a language that is not known here.
    private static bool IsUnknownLabel(string line) =>
        UnknownLabel().Match(line) is { Success: true } match
        && !Telephones().IsMatch(line)
        && !WebAddresses().IsMatch(line)
        && !KnownLabel().IsMatch(match.Groups[1].Value);

    private static bool IsForTelephone(string line) =>
        !WebAddresses().IsMatch(line)
        && (
            (line.EndsWith('#') && line.StartsWith("conference", StringComparison.OrdinalIgnoreCase))
            || (
                (Telephones().IsMatch(line) || line.EndsWith('#'))
                && line.Contains("code", StringComparison.OrdinalIgnoreCase)
                && !IdWord().IsMatch(line)
            )
        );

    private static bool IsUnclear(string line, JoinTarget target)
    {
        var words = WebAddresses().Replace(line, "");
        if (SecretWord().Match(words) is not { Success: true } word || NoSecret().IsMatch(words[..word.Index]))
            return false;
        if (
            target.MeetingId.Length > 0
            && Digits(line).Contains(Digits(target.MeetingId), StringComparison.Ordinal)
            && line.EndsWith('#')
        )
            return false;
        if (
            (target.Passcode.Length > 0 && line.Contains(target.Passcode, StringComparison.Ordinal))
            || (target.MeetingId.Length > 0 && line.Contains(target.MeetingId, StringComparison.Ordinal))
        )
            return false;
        var rest = words[(word.Index + word.Length)..].Trim(' ', ':', '=', '-', '(', ')', '.', '<', '>');
        // "Enter “eel” as the password".
        return (rest.Length > 0 && !NoValue().IsMatch(rest)) || words[..word.Index].IndexOfAny(['"', '“']) >= 0;
    }

    /// <summary>The best web address: beside a word like "join" before any other, and never one that only lists numbers or helps.</summary>
    private static JoinTarget? AddressIn(string[] lines)
    {
        JoinTarget? best = null;
        var bestWeight = int.MinValue;
        for (var at = 0; at < lines.Length; at++)
        {
            var matches = WebAddresses().Matches(lines[at]);
            for (var which = 0; which < matches.Count; which++)
            {
                var match = matches[which];
                if (
                    JoinTarget.Read(match.Value.TrimEnd('.', ',', ';', ':', ')', '>', ']', '"', '\'')).Target
                    is not { } target
                )
                    continue;
                // Of several in a line, each has the words of its own sentence.
                var before = lines[at]
                    [(which > 0 ? matches[which - 1].Index + matches[which - 1].Length : 0)..match.Index]
                    .Split(". ")[^1];
                var next = which + 1 < matches.Count ? matches[which + 1].Index : lines[at].Length;
                var after = lines[at][(match.Index + match.Length)..next].Split(". ")[0];
                var weight =
                    (JoinWords().IsMatch($"{before} {after} {(at > 0 ? lines[at - 1] : "")}") ? 2 : 0)
                    + (target.PasscodeInside is null ? 0 : 1)
                    - (OtherWords().IsMatch($"{before}{match.Value}{after}") ? 4 : 0);
                if (weight <= bestWeight)
                    continue;
                (best, bestWeight) = (target, weight);
            }
        }

        return best;
    }

    // Further rooms: which of them is meant is told, and not decided. What lists numbers or helps is none.
    private static List<string> OtherRooms(string[] lines, JoinTarget target) =>
        [
            .. lines.Where(line =>
                !OtherWords().IsMatch(line)
                && WebAddresses()
                    .Matches(line)
                    .Any(match =>
                        JoinTarget.Read(match.Value.TrimEnd('.', ',', ';', ':', ')', '>', ']', '"', '\'')).Target
                            is { } other
                        && (other.Address.IdnHost == target.Address.IdnHost || JoinWords().IsMatch(line))
                        && other.Address.AbsolutePath != target.Address.AbsolutePath
                    )
            ),
        ];

    // A row of a table, "| Password | tide-9 |", becomes "Password: tide-9"; marks of quoting and of bold print go.
    private static string Plain(string line)
    {
        line = System.Net.WebUtility.HtmlDecode(
            Tags()
                .Replace(line, match =>
                    LinkInTag().Match(match.Value) is { Success: true } link ? link.Groups[1].Value + " " : ""
                )
        );
        line = line.Replace("**", "", StringComparison.Ordinal)
            .Replace('→', ':')
            .Replace('\u00A0', ' ')
            .Trim()
            .TrimStart('>', '•', '*')
            .Trim();
        var cells = line.Split(['|', '\t'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        return
            cells.Length == 2
            && (line.Contains('|', StringComparison.Ordinal) || line.Contains('\t', StringComparison.Ordinal))
            ? $"{cells[0].TrimEnd(':')}: {cells[1]}"
            : line;
    }

    // A PIN that goes with a telephone number opens the line, not the room.
    private static string PinIn(string[] lines)
    {
        for (var at = 0; at < lines.Length; at++)
        {
            if (PinLabel().Match(lines[at]) is not { Success: true } match)
                continue;
            if (
                lines
                    .Skip(Math.Max(0, at - 2))
                    .Take(4)
                    .Any(line => Telephones().IsMatch(line) || PhoneWords().IsMatch(line))
                || lines[at].TrimEnd().EndsWith('#')
            )
                continue;
            return lines[at][(match.Index + match.Length)..].Trim();
        }

        return "";
    }

    // What stands after a label, where it is a passcode: not "none", and not a sentence.
    private static string PasscodeOf(string text)
    {
        // Behind a blank a bracket says something of it; within, it is a part.
        var end = Enumerable
            .Range(0, text.Length)
            .FirstOrDefault(
                at =>
                    text[at] is ',' or '\t'
                    || (text[at] == '(' && (at == 0 || text[at - 1] == ' '))
                    || (text[at] == ')' && !text[..at].Contains('(', StringComparison.Ordinal)),
                -1
            );
        var value = (end >= 0 ? text[..end] : text).Split("  ")[0].Split(". ")[0];
        // "… is case-sensitive: DaCe7".
        if (
            value.IndexOf(": ", StringComparison.Ordinal) is > 0 and var colon
            && !value[..colon].Any(char.IsAsciiDigit)
        )
            value = value[(colon + 2)..];
        if (NextLabel().Match(value) is { Success: true, Index: > 0 } next)
            value = value[..next.Index];
        value = ToEnter().Replace(value, "");
        value = value
            .Trim()
            .TrimEnd('.')
            .Trim('-', '–', '|', '`', '"', '“', '”', '»', '«', '[', ']')
            .TrimEnd('.')
            .Trim();
        var words = value.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return
            words.Length == 0
            || (words.Length > 2 && !value.All(letter => char.IsAsciiDigit(letter) || letter is ' '))
            || NoValue().IsMatch(value)
            || value.Length > 60
            ? ""
            : value;
    }

    // The text after a label on its line, or the next line where the label stands alone.
    private static string Labelled(string[] lines, Regex label)
    {
        for (var at = 0; at < lines.Length; at++)
        {
            // A label within an address, "?pwd=", is a part of it.
            var line = WebAddresses().Replace(lines[at], " ");
            if (label.Match(line) is not { Success: true } match)
                continue;
            var rest = line[(match.Index + match.Length)..].Trim();
            if (rest.Length == 0 && at + 1 < lines.Length)
                rest =
                    lines.Skip(at + 1).FirstOrDefault(other => other.Length > 0) is { } next
                    && !WebAddresses().IsMatch(next)
                        ? next
                        : "";
            if (rest.Length is > 0 and <= 200)
                return rest;
        }

        return "";
    }

    private static ImmutableArray<string> DialIns(string[] lines)
    {
        var numbers = new List<string>();
        foreach (var line in lines)
        {
            if (WebAddresses().IsMatch(line))
                continue;
            foreach (Match match in Telephones().Matches(line))
            {
                var number = match.Value.Trim();
                if (
                    number.Count(char.IsAsciiDigit) is < 7 or > 15
                    || numbers.Exists(known => Digits(known).StartsWith(Digits(number), StringComparison.Ordinal))
                )
                    continue;
                var place = line[(match.Index + match.Length)..].Trim(' ', '(', ')', ',', '-', '–');
                numbers.Add(
                    place.Length is > 0 and <= 40
                    && place.All(letter => char.IsLetter(letter) || letter is ' ' or '(' or ')' or '.' or ',')
                        ? $"{number} ({place.Trim('(', ')')})"
                        : number
                );
            }
        }

        return [.. numbers.Take(10)];
    }

    private static string IdOnly(string text) =>
        IdPattern().Match(NextLabel().Match(text) is { Success: true, Index: > 0 } next ? text[..next.Index] : text)
            is { Success: true } match
            ? match.Value.Trim().TrimEnd('-').Trim()
            : "";

    private static string Digits(string text) => string.Concat(text.Where(char.IsAsciiDigit));

    [GeneratedRegex(@"</?[a-z][a-z0-9]*(\s[^<>]*)?/?>", RegexOptions.IgnoreCase)]
    private static partial Regex Tags();

    [GeneratedRegex(@"href=[""']?(https?://[^\s<>""']+)", RegexOptions.IgnoreCase)]
    private static partial Regex LinkInTag();

    // Words beside which a code stands; what is told as unclear may be too much, never too little.
    [GeneratedRegex(
        @"\b(code|pass|pass ?code|password|pwd?|pin|key|id|identifiant|\w*code|kennwort|passwort|mot de passe"
            + @"|contraseña|clave|código|senha|palavra-passe|schlüssel|clé|passord|lösenord|adgangskode|salasana"
            + @"|wachtwoord|parola|hasło|heslo)\b"
            // A number that ends with the sign that a telephone sends.
            + @"|(?=\d[\d ]*#)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex SecretWord();

    [GeneratedRegex(@"https?://[^\s<>""]+", RegexOptions.IgnoreCase)]
    private static partial Regex WebAddresses();

    // Labels in English, German, French, Spanish and Portuguese, and passwords in some more languages, as such texts commonly have
    // them; from memory, no source.
    [GeneratedRegex(
        @"\b(join|enter|click|link|room|meeting (address|url)|url|web"
            // German, French, Spanish, Portuguese.
            + @"|beitreten|teilnehmen|raum|rejoindre|participer|lien|unirse|unirte|entrar|enlace|sala|ingressar|participar)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex JoinWords();

    [GeneratedRegex(
        // Telephones and help.
        @"\b(local numbers?|find (your|a) |dial-?in numbers|help|support|privacy"
            // What belongs to the meeting and is not its room.
            + @"|download|recordings?|slides|survey|panell?ists?|presenters?|instructors?|old|no longer"
            + @"|unsubscribe|options|learn more|more (phone )?numbers|register|registration|sign up|test"
            // What opens as host.
            + @"|host link|moderator link|do not share|for hosts?"
            + @"|hilfe|datenschutz|aide|ayuda|ajuda)\b"
            // In an address.
            + @"|/(dial|numbers|phones?|tel|help|legal|privacy|register)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex OtherWords();

    [GeneratedRegex(
        @"^\s*(topic|subject|title|what|thema|betreff|sujet|objet|asunto|tema|assunto|tópico)\s*:\s*",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex TopicLabel();

    [GeneratedRegex(
        // "Meeting ID (if asked):", "Konferenzkennung".
        @"\b(meeting|conference|room|event|webinar|besprechungs|konferenz|raum|sitzungs)[\s-]*"
            + @"(id\b|number\b|no\b\.?|code\b|nummer\b|kennung\b|kennnummer\b)(\s*\([^)]*\))?( is)?\s*[:#]?\s*"
            + @"|\braum-?(nummer|nr\.?)\s*:?\s*"
            // "ID de la réunion", "n° de sessão".
            + @"|\b(id|identifiant|num[ée]ro|número|code|código|n[°º])\s+(de\s+la|de\s+l[’']|de|da|do)?\s*"
            + @"(réunion|conférence|reunión|reunião|sesión|session|sessão|sala|salle)\s*:?\s*"
            // A line of its own.
            + @"|^\s*(id|number|kennung|access code|identifiant)\s*[:#=]\s*",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex MeetingIdLabel();

    [GeneratedRegex(
        @"\b(pass ?code|password|pwd?|security code|kenncode|kennwort|passwort|zugangscode"
            // French, Spanish, Portuguese.
            + @"|mot de passe|code secret|code d[’']accès|contraseña|código de acceso|clave|senha de acesso|senha"
            + @"|código de acesso|palavra-passe"
            // Nordic, Dutch, Italian, Polish, Czech.
            + @"|passord|lösenord|adgangskode|salasana|wachtwoord|toegangscode|codice di accesso|hasło|heslo"
            // "code" alone only before a colon, or after "enter the".
            + @"|(?<=^\s*|,\s*)(pass|code)(?=\s*[:=])|(?<=\benter the )code)\b"
            + @"(\s*\([^)]*\))?(\s+(is|will be|ist|lautet|est|es|é))?"
            // What parts it from its value.
            + @"(\s*[:=#]\s*|\s+(?=\S+$)|\s+(?=\d+\b)|\s*$|(?<=\b(is|will be|ist|lautet|est|es|é))\s+)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PasscodeLabel();

    [GeneratedRegex(
        @"\b(pass|code|key|código|pass ?code|password|passwort|kennwort|schlüssel|clé|mot de passe|clave|senha)"
            // Up to five words more: "code to get in:"
            + @"((\s+(?!hint|not\b|reset)\p{L}+){0,5}?"
            + @"(\s*[:=]\s*|\s+(is|will be|ist|lautet|est|es|é)\s+(?=\S+$)|\s+[-–]\s+|\s{2,})"
            + @"|\s+(?=\S*\d\S*$))|^pass\s+(?=\S+$)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex WeakPasscodeLabel();

    [GeneratedRegex(@"\bid\b[\s:=]+(?=\d[\d \-]{3,})", RegexOptions.IgnoreCase)]
    private static partial Regex WeakIdLabel();

    [GeneratedRegex(
        @"\b(host|moderator|participant code|meeting code|event code|conference code|phone|telephone|telefon|postal|dress|qr|zip)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex OtherCode();

    [GeneratedRegex(@"\s+to (enter|join|get in|connect|log in|sign in)\b.*$", RegexOptions.IgnoreCase)]
    private static partial Regex ToEnter();

    // "There is no password", "Don’t share the password".
    [GeneratedRegex(@"\b(no|share (the|this)|kein|aucun|sin|sem)\s+$", RegexOptions.IgnoreCase)]
    private static partial Regex NoSecret();

    // What opens something else than the room, or opens it as its host.
    [GeneratedRegex(
        @"\bfor the (recording|file|form|wi-?fi|website|portal|registration|host|moderator)\b"
            + @"|\b(host|moderator|presenter|recording|wi-?fi|file|old|portal) (pass|code|pwd)",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex OtherSecret();

    [GeneratedRegex(@"^(\p{L}[\p{L} ]{1,30}?)\s*[:=]\s*(?=\S*\d)\S{3,40}$")]
    private static partial Regex UnknownLabel();

    [GeneratedRegex(
        @"\b(id|identifiant|number|no|nummer|when|date|day|time|start|ends?|room|where|location|period|grade"
            + @"|class|week|topic|subject|title|what|datum|zeit|raum|heure|salle|fecha|hora|data|sala)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex KnownLabel();

    [GeneratedRegex(@"\bpin\b\s*(is|ist)?\s*[:=#]?\s+", RegexOptions.IgnoreCase)]
    private static partial Regex PinLabel();

    [GeneratedRegex(
        @"\b(dial|phone|telephone|telefon|téléphone|teléfono|telefone|call|audio|host|mobile)\b",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex PhoneWords();

    [GeneratedRegex(@"\b(id|number)\b", RegexOptions.IgnoreCase)]
    private static partial Regex IdWord();

    [GeneratedRegex(@"\s\p{L}[\p{L} ]{2,20}:")]
    private static partial Regex NextLabel();

    [GeneratedRegex(
        @"^(none|no|not|nil|n/a|-|–|—|kein|keine|keins|aucun|aucune|ninguno|ninguna|nenhum|nenhuma"
            + @"|required|needed|necessary|protected|hint|optional|see below|empty|blank|leer|vide|vacía|vacío|vazia"
            + @"|não|sans|sin|sem)\b|^[-–—]*$",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex NoValue();

    [GeneratedRegex(@"\+\d[\d ().\-]{6,22}\d|\(\d{3}\)\s?\d{3}[\- ]\d{4}|\b\d{3}[.\-]\d{3}[.\-]\d{4}\b")]
    private static partial Regex Telephones();

    [GeneratedRegex(@"^\d[\d \-]{1,28}\d|^(?=\S*[\d\-])[0-9A-Za-z][0-9A-Za-z\-]{2,30}")]
    private static partial Regex IdPattern();
}
