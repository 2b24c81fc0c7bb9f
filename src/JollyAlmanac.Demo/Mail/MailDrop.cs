using System.Text;
using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Mail;
using MimeKit;
using NodaTime;

namespace JollyAlmanac.Demo.Mail;

/// <summary>A letter in the drop.</summary>
/// <param name="File">The name of its file, without ".eml".</param>
/// <param name="To">For whom.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="At">When it was put there.</param>
/// <param name="Text">What it says; empty where only the list was asked for.</param>
public sealed record DroppedLetter(string File, string To, string Subject, Instant At, string Text);

/// <summary>
/// A stand-in for a mail server: it puts each letter as a standard message file (RFC 5322) into a folder of the data directory, where
/// any mail program opens it, and a page of the almanac shows it. Letters that a mail server, or somebody, puts into the folder
/// <c>incoming</c> within are read as answers, and put away in <c>answers</c> and <c>other</c> beside them.
/// </summary>
/// <param name="directory">The data directory.</param>
/// <param name="sender">Whom letters come from.</param>
public sealed class MailDrop(string directory, MailboxAddress sender) : IMailCarrier, IMailbox
{
    private const int MostListed = 200;

    private const int MostFetched = 100;

    // An answer has a few kilobytes; what is larger is none.
    private const long LargestAnswer = 1024 * 1024;

    private string Incoming => Path.Combine(Folder, "incoming");

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

    /// <inheritdoc />
    public Task<IReadOnlyList<IncomingLetter>> Fetch(CancellationToken cancellation) =>
        Task.FromResult<IReadOnlyList<IncomingLetter>>(
            !Directory.Exists(Incoming)
                ? []
                :
                [
                    .. new DirectoryInfo(Incoming)
                        .EnumerateFiles("*.eml")
                        .OrderBy(file => file.LastWriteTimeUtc)
                        .ThenBy(file => file.Name, StringComparer.Ordinal)
                        .Take(MostFetched)
                        .Select(ReadIncoming),
                ]
        );

    /// <inheritdoc />
    public Task Archive(IncomingLetter letter, bool isUnderstood, CancellationToken cancellation)
    {
        var folder = Path.Combine(Folder, isUnderstood ? "answers" : "other");
        DataDirectory.MakePrivate(folder);
        File.Move(Path.Combine(Incoming, letter.Key), Path.Combine(folder, letter.Key), overwrite: true);
        return Task.CompletedTask;
    }

    private static IncomingLetter ReadIncoming(FileInfo file)
    {
        var nothing = new IncomingLetter(file.Name, "", []);
        if (file.Length > LargestAnswer)
            return nothing;
        try
        {
            using var message = MimeMessage.Load(file.FullName);
            return new IncomingLetter(
                file.Name,
                message.From.Mailboxes.FirstOrDefault()?.Address ?? "",
                [
                    .. message
                        .BodyParts.OfType<MimePart>()
                        .Where(part => part.ContentType.IsMimeType("text", "calendar"))
                        .Select(Bytes),
                ]
            );
        }
        catch (Exception failure) when (failure is FormatException or IOException or UnauthorizedAccessException)
        {
            return nothing;
        }
    }

    private static byte[] Bytes(MimePart part)
    {
        using var bytes = new MemoryStream();
        part.Content?.DecodeTo(bytes);
        return bytes.ToArray();
    }

    /// <summary>The letters that are there, the newest first.</summary>
    public IReadOnlyList<DroppedLetter> List() =>
        !Directory.Exists(Folder)
            ? []
            :
            [
                .. new DirectoryInfo(Folder)
                    .EnumerateFiles("*.eml")
                    .OrderByDescending(file => file.LastWriteTimeUtc)
                    .ThenByDescending(file => file.Name)
                    .Take(MostListed)
                    .Select(file => Read(file.FullName, withText: false))
                    .OfType<DroppedLetter>()
                    .OrderByDescending(one => one.At),
            ];

    /// <summary>A letter by its file's name; null where there is none.</summary>
    public DroppedLetter? Find(string file) =>
        file.Length is > 0 and < 80
        && file.All(letter => char.IsAsciiLetterOrDigit(letter) || letter == '.')
        && !file.Contains("..", StringComparison.Ordinal)
        && File.Exists(Path.Combine(Folder, file + ".eml"))
            ? Read(Path.Combine(Folder, file + ".eml"), withText: true)
            : null;

    /// <summary>A letter as a standard message.</summary>
    public static MimeMessage MessageOf(Letter letter, MailboxAddress sender)
    {
        var message = new MimeMessage
        {
            MessageId = letter.MessageId,
            Subject = letter.Subject,
            Date = letter.At.ToDateTimeOffset(),
            Body = BodyOf(letter),
        };
        message.From.Add(sender);
        message.To.Add(new MailboxAddress(letter.ToName, letter.ToAddress));
        // Nobody's "I am away" answers a machine (RFC 3834).
        message.Headers.Add("Auto-Submitted", "auto-generated");
        return message;
    }

    // Words for people, and the same for their calendar program, which looks for the method beside the type (RFC 6047 §2.4).
    private static MimeEntity BodyOf(Letter letter)
    {
        var words = new TextPart("plain") { Text = letter.Text };
        if (letter.File is { } file)
        {
            var attached = CalendarOf(file.Calendar);
            attached.ContentDisposition = new ContentDisposition(ContentDisposition.Attachment)
            {
                FileName = file.Name,
            };
            return new Multipart("mixed") { words, attached };
        }

        if (letter.Sessions is not { } sessions)
            return words;
        var calendar = CalendarOf(sessions.Calendar);
        calendar.ContentType.Parameters.Add("method", sessions.Method);
        calendar.ContentType.Parameters.Add("component", "VEVENT");
        return new MultipartAlternative(words, calendar);
    }

    // As bytes: its lines end with CR and LF, and stay so.
    private static MimePart CalendarOf(string document)
    {
        var calendar = new MimePart("text", "calendar")
        {
            Content = new MimeContent(new MemoryStream(Encoding.UTF8.GetBytes(document))),
            ContentTransferEncoding = ContentEncoding.Base64,
        };
        calendar.ContentType.Charset = "utf-8";
        return calendar;
    }

    private static DroppedLetter? Read(string path, bool withText)
    {
        try
        {
            using var message = MimeMessage.Load(path);
            return new DroppedLetter(
                Path.GetFileNameWithoutExtension(path),
                message.To.ToString(),
                message.Subject ?? "",
                Instant.FromDateTimeOffset(message.Date),
                withText ? message.TextBody ?? "" : ""
            );
        }
        catch (Exception failure) when (failure is FormatException or IOException or UnauthorizedAccessException)
        {
            // Somebody put something else there.
            return null;
        }
    }
}
