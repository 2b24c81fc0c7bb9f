using JollyAlmanac.Application.Mail;
using NodaTime;

namespace JollyAlmanac.Web.Serving.Jobs;

/// <summary>Writes letters about sessions that changed, to those who get them by e-mail.</summary>
public sealed class SessionLettersJob(SessionLetters letters, IClock clock, ILogger<SessionLettersJob> log)
    : PeriodicJob(Duration.FromSeconds(3), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Sessions by e-mail";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        letters.Look(stopping);
        return Task.CompletedTask;
    }
}

/// <summary>Writes reminders of sessions that begin soon.</summary>
public sealed class RemindersJob(Reminders reminders, IClock clock, ILogger<RemindersJob> log)
    : PeriodicJob(Duration.FromSeconds(3), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Reminders";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        reminders.Look(stopping);
        return Task.CompletedTask;
    }
}

/// <summary>Writes to those whose join links soon lead nowhere.</summary>
public sealed class LinkLettersJob(LinkLetters letters, IClock clock, ILogger<LinkLettersJob> log)
    : PeriodicJob(Duration.FromMinutes(1), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Rooms that run out";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        letters.Look(stopping);
        return Task.CompletedTask;
    }
}

/// <summary>Writes reminders of what is to be done by tomorrow.</summary>
public sealed class DueLettersJob(DueLetters letters, IClock clock, ILogger<DueLettersJob> log)
    : PeriodicJob(Duration.FromMinutes(1), clock, log)
{
    /// <inheritdoc />
    public override string Title => "What is to be done";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping)
    {
        letters.Look(stopping);
        return Task.CompletedTask;
    }
}

/// <summary>Sends the letters that are due.</summary>
public sealed class PostJob(Post post, IClock clock, ILogger<PostJob> log)
    : PeriodicJob(Duration.FromSeconds(3), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Sending e-mail";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping) => post.Send(stopping);
}

/// <summary>Reads the answers that attendees sent by e-mail.</summary>
public sealed class AnswersJob(ReadAnswers answers, IClock clock, ILogger<AnswersJob> log)
    : PeriodicJob(Duration.FromSeconds(3), clock, log)
{
    /// <inheritdoc />
    public override string Title => "Answers by e-mail";

    /// <inheritdoc />
    protected override Task Run(CancellationToken stopping) => answers.Take(stopping);
}
