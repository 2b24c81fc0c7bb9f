using System.Net;
using System.Net.Sockets;
using System.Text;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Web.Serving;
using MimeKit;
using NodaTime;

namespace JollyAlmanac.Web.Tests;

/// <summary>Letters to a mail server, by what RFC 5321 lets it answer.</summary>
public sealed class SmtpTests
{
    private static readonly Letter Sessions = new(
        "letter.7@almanac.example",
        "Teodor Quill",
        "teodor@skerry.example",
        "Tidepool Biology 9A",
        "Teodor Quill,\n\nThese are its sessions…\n.\nA line with a dot alone is no end.\n",
        Instant.FromUtc(2026, 10, 14, 12, 41),
        new LetterSessions("REQUEST", "BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\nEND:VCALENDAR\r\n")
    );

    [Fact]
    public async Task A_letter_arrives_whole_with_what_a_calendar_program_looks_for()
    {
        using var server = new Server();
        await Carry(server.Port);
        var message = await MimeMessage.LoadAsync(
            new MemoryStream(Encoding.UTF8.GetBytes(server.Data)),
            TestContext.Current.CancellationToken
        );
        Assert.Equal(
            ("almanac@skerry.example", "teodor@skerry.example"),
            (message.From.Mailboxes.Single().Address, message.To.Mailboxes.Single().Address)
        );
        Assert.Equal("auto-generated", message.Headers["Auto-Submitted"]);
        Assert.Contains("A line with a dot alone is no end.", message.TextBody, StringComparison.Ordinal);
        // RFC 6047 §2.4: the method stands beside the type.
        var calendar = Assert.Single(message.BodyParts.OfType<TextPart>(), part =>
            part.ContentType.IsMimeType("text", "calendar")
        );
        Assert.Equal(
            ("REQUEST", "VEVENT"),
            (calendar.ContentType.Parameters["method"], calendar.ContentType.Parameters["component"])
        );
        // Its lines end as RFC 5545 §3.1 has them.
        using var bytes = new MemoryStream();
        await calendar.Content!.DecodeToAsync(bytes, TestContext.Current.CancellationToken);
        Assert.Equal(Sessions.Sessions!.Calendar, Encoding.UTF8.GetString(bytes.ToArray()));
    }

    [Theory]
    // RFC 5321 §4.2.1: what begins with 5 is final; but only of the address, since a server that refuses all may be set right.
    [InlineData("RCPT", "550 No such mailbox", true, "refused it (550)")]
    [InlineData("RCPT", "450 Try later", false, "refused it (450)")]
    [InlineData("MAIL", "550 Not from you", false, "refused it (550)")]
    [InlineData("DATA", "451 Try later", false, "refused it (451)")]
    [InlineData("EHLO", "", false, "could not be reached")]
    public async Task What_the_server_says_decides_whether_it_is_tried_again(
        string command,
        string answer,
        bool isFinal,
        string says
    )
    {
        using var server = new Server { Command = command, Answer = answer };
        var failure = await Assert.ThrowsAsync<MailCarrierException>(() => Carry(server.Port));
        Assert.Equal(isFinal, failure.IsFinal);
        Assert.Contains(says, failure.Message, StringComparison.Ordinal);
        Assert.DoesNotContain("Teodor", failure.Message, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public async Task No_letter_goes_without_TLS_but_to_this_very_machine()
    {
        using var server = new Server();
        var failure = await Assert.ThrowsAsync<MailCarrierException>(() => Carry(server.Port, mustEncrypt: true));
        Assert.Contains("TLS", failure.Message, StringComparison.Ordinal);
        Assert.Equal("", server.Data);
    }

    [Fact]
    public async Task A_server_that_is_not_there_is_tried_again()
    {
        int port;
        using (var server = new Server())
            port = server.Port;
        Assert.False((await Assert.ThrowsAsync<MailCarrierException>(() => Carry(port))).IsFinal);
    }

    private static Task Carry(int port, bool mustEncrypt = false) =>
        new SmtpCarrier(
            new SmtpSettings(
                "127.0.0.1",
                port,
                "",
                "",
                new MailboxAddress("The almanac", "almanac@skerry.example"),
                mustEncrypt
            )
        ).Carry(Sessions, TestContext.Current.CancellationToken);

    // As much of a mail server as a letter needs.
    private sealed class Server : IDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, 0);

        public Server()
        {
            listener.Start();
            _ = Task.Run(async () =>
            {
                using var client = await listener.AcceptTcpClientAsync();
                await Speak(client.GetStream());
            });
        }

        public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

        public string Command { get; init; } = "";

        public string Answer { get; init; } = "";

        public string Data { get; private set; } = "";

        public void Dispose() => listener.Dispose();

        private async Task Speak(NetworkStream stream)
        {
            using var reader = new StreamReader(stream, Encoding.UTF8);
            async Task Say(string line) => await stream.WriteAsync(Encoding.ASCII.GetBytes(line + "\r\n"));
            await Say("220 mail.skerry.example");
            while (await reader.ReadLineAsync() is { } line)
            {
                var command = line.Split(' ')[0].ToUpperInvariant();
                if (command == Command)
                {
                    if (Answer.Length == 0)
                        return;
                    await Say(Answer);
                    continue;
                }

                if (command == "DATA")
                {
                    await Say("354 Go on");
                    var data = new StringBuilder();
                    while (await reader.ReadLineAsync() is { } part && part != ".")
                        data.Append(part.StartsWith('.') ? part[1..] : part).Append("\r\n");
                    Data = data.ToString();
                }

                await Say(command == "QUIT" ? "221 Bye" : "250 mail.skerry.example");
            }
        }
    }
}
