using System.Net.Security;
using System.Net.Sockets;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Demo.Mail;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace JollyAlmanac.Web.Serving;

/// <summary>A mail server of the school's.</summary>
/// <param name="Host">Its name.</param>
/// <param name="Port">Its port; 465 speaks TLS at once, others begin it (STARTTLS) where the server offers it.</param>
/// <param name="User">Who signs in there; empty for nobody.</param>
/// <param name="Password">From the environment or a file, never from an argument.</param>
/// <param name="From">Whom letters come from.</param>
/// <param name="MustEncrypt">Without TLS nothing is sent; false only for a server on this very machine.</param>
public sealed record SmtpSettings(
    string Host,
    int Port,
    string User,
    string Password,
    MailboxAddress From,
    bool MustEncrypt
);

/// <summary>Carries letters to a mail server.</summary>
public sealed class SmtpCarrier(SmtpSettings settings) : IMailCarrier
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    /// <inheritdoc />
    public async Task Carry(Letter letter, CancellationToken cancellation)
    {
        using var ends = CancellationTokenSource.CreateLinkedTokenSource(cancellation);
        ends.CancelAfter(Patience);
        try
        {
            using var client = new SmtpClient();
            // A server on this very machine, which is spoken to without TLS, too, mostly has a certificate that nobody signed.
            if (!settings.MustEncrypt)
                client.ServerCertificateValidationCallback = (_, _, _, errors) =>
                    !errors.HasFlag(SslPolicyErrors.RemoteCertificateNotAvailable);
            await client.ConnectAsync(
                settings.Host,
                settings.Port,
                settings.Port == 465 ? SecureSocketOptions.SslOnConnect
                    : settings.MustEncrypt ? SecureSocketOptions.StartTls
                    : SecureSocketOptions.StartTlsWhenAvailable,
                ends.Token
            );
            if (settings.User.Length > 0)
                await client.AuthenticateAsync(settings.User, settings.Password, ends.Token);
            using var message = MailDrop.MessageOf(letter, settings.From);
            await client.SendAsync(message, ends.Token);
            await client.DisconnectAsync(true, ends.Token);
        }
        catch (SmtpCommandException refusal)
        {
            // What the server says of an address is final where its code begins with 5 (RFC 5321 §4.2.1).
            throw new MailCarrierException(
                $"The mail server refused it ({(int)refusal.StatusCode}).",
                refusal.ErrorCode == SmtpErrorCode.RecipientNotAccepted && (int)refusal.StatusCode >= 500
            );
        }
        catch (Exception failure)
            when (failure
                    is SocketException
                        or IOException
                        or ProtocolException
                        or AuthenticationException
                        or SslHandshakeException
                        or ServiceNotConnectedException
                        or NotSupportedException
                || (failure is OperationCanceledException && !cancellation.IsCancellationRequested)
            )
        {
            throw new MailCarrierException(
                failure is AuthenticationException ? "The mail server does not take the user’s password."
                : failure is OperationCanceledException ? "The mail server did not answer in time."
                : failure is SslHandshakeException or NotSupportedException
                    ? "The mail server offers no encryption (TLS) that can be trusted. Look at its certificate."
                : "The mail server could not be reached."
            );
        }
    }
}
