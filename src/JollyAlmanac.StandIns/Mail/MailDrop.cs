using JollyAlmanac.Application.Keeping;
using JollyAlmanac.Application.Mail;
using MimeKit;
using NodaTime;

namespace JollyAlmanac.StandIns.Mail;

/// <summary>A letter in the drop.</summary>
/// <param name="File">The name of its file, without ".eml".</param>
/// <param name="To">For whom.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="At">When it was put there.</param>
/// <param name="Text">What it says; empty where only the list was asked for.</param>
public sealed record DroppedLetter(string File, string To, string Subject, Instant At, string Text);

/// <summary>
/// A stand-in for a mail server: it puts each letter as a standard message file (RFC 5322) into a folder of the data directory, where
/// any mail program opens it, and a page of the almanac shows it.
/// </summary>
/// <param name="directory">The data directory.</param>
/// <param name="sender">Whom letters come from.</param>
public sealed class MailDrop(string directory, MailboxAddress sender) : IMailCarrier
{
    private const int MostListed = 200;

    private string Folder => Path.Combine(directory, "mail-drop");

    /// <inheritdoc />
    public Task Carry(Letter letter, CancellationToken cancellation)
    {
        using var stream = new MemoryStream();
        MessageOf(letter, sender).WriteTo(stream, cancellation);
        // The same letter tried twice is one file.
        DataDirectory.WritePrivate(Folder, $"{letter.MessageId.Split('@')[0]}.eml", stream.ToArray());
        return Task.CompletedTask;
    }

    /// <summary>The letters that are there, the newest first.</summary>
    public IReadOnlyList<DroppedLetter> List() => !Directory.Exists(Folder) ? []
        : [.. new DirectoryInfo(Folder).EnumerateFiles("*.eml").OrderByDescending(file => file.LastWriteTimeUtc)
            .ThenByDescending(file => file.Name)
            .Take(MostListed).Select(file => Read(file.FullName, withText: false)).OfType<DroppedLetter>()
                .OrderByDescending(one => one.At)];

    /// <summary>A letter by its file's name; null where there is none.</summary>
    public DroppedLetter? Find(string file) => file.Length is > 0 and < 80
        && file.All(letter => char.IsAsciiLetterOrDigit(letter) || letter == '.')
        && !file.Contains("..", StringComparison.Ordinal) && File.Exists(Path.Combine(Folder, file + ".eml"))
            ? Read(Path.Combine(Folder, file + ".eml"), withText: true) : null;

    /// <summary>A letter as a standard message.</summary>
    public static MimeMessage MessageOf(Letter letter, MailboxAddress sender)
    {
        var message = new MimeMessage
        {
            MessageId = letter.MessageId,
            Subject = letter.Subject,
            Date = letter.At.ToDateTimeOffset(),
            Body = new TextPart("plain") { Text = letter.Text },
        };
        message.From.Add(sender);
        message.To.Add(new MailboxAddress(letter.ToName, letter.ToAddress));
        // Nobody's "I am away" answers a machine (RFC 3834).
        message.Headers.Add("Auto-Submitted", "auto-generated");
        return message;
    }

    private static DroppedLetter? Read(string path, bool withText)
    {
        try
        {
            using var message = MimeMessage.Load(path);
            return new DroppedLetter(Path.GetFileNameWithoutExtension(path), message.To.ToString(), message.Subject ?? "",
                Instant.FromDateTimeOffset(message.Date), withText ? message.TextBody ?? "" : "");
        }
        catch (Exception failure) when (failure is FormatException or IOException or UnauthorizedAccessException)
        {
            // Somebody put something else there.
            return null;
        }
    }
}
