using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>Puts the acts together over the data of one installation.</summary>
public static class ServiceRegistration
{
    /// <summary>Takes a roster in from a shell, also while the almanac is served; see <see cref="RosterImport.FromShell"/>.</summary>
    /// <exception cref="Core.Data.DataDirectoryException">The data directory cannot be used.</exception>
    public static RosterImportResult ImportRosterFromShell(
        string directory,
        IClock clock,
        string path,
        RosterImportChoices choices,
        bool isDry,
        Action<int, int>? progress = null
    )
    {
        using var database = AlmanacDatabase.Open(directory);
        return new RosterImport(new Gate(database, clock), database, clock, Secrets.Of(directory)).FromShell(
            path,
            choices,
            isDry,
            progress
        );
    }

    /// <summary>Takes the files of a school in from a shell, also while the almanac is served; see <see cref="SchoolImport.FromShell"/>.</summary>
    /// <exception cref="Core.Data.DataDirectoryException">The data directory cannot be used.</exception>
    public static SchoolImportResult ImportSchoolFromShell(
        string directory,
        IClock clock,
        IEnumerable<string> paths,
        SchoolImportChoices choices,
        bool isDry
    )
    {
        using var database = AlmanacDatabase.Open(directory);
        var gate = new Gate(database, clock);
        return new SchoolImport(
            gate,
            database,
            clock,
            new ComposeSeries(
                gate,
                new FileVault(directory),
                UploadLimit.Usual,
                new FileCheck(),
                new RoomProviders(null)
            ),
            new RosterImport(gate, database, clock, Secrets.Of(directory))
        ).FromShell(paths, choices, isDry);
    }

    /// <summary>Takes a file of sessions in from a shell, also while the almanac is served; see <see cref="ImportFile.FromShell"/>.</summary>
    /// <exception cref="Core.Data.DataDirectoryException">The data directory cannot be used.</exception>
    public static Outcome<ImportReview> ImportFromShell(
        string directory,
        IClock clock,
        Slug slug,
        string path,
        bool isDry
    )
    {
        using var database = AlmanacDatabase.Open(directory);
        return new ImportFile(
            new Gate(database, clock),
            database,
            clock,
            new FileVault(directory),
            UploadLimit.Usual,
            new FileCheck()
        ).FromShell(slug, path, isDry);
    }

    /// <summary>Gives a calendar out from a shell, also while the almanac is served; see <see cref="ExportCalendar.Of"/>.</summary>
    /// <exception cref="Core.Data.DataDirectoryException">The data directory cannot be used.</exception>
    public static byte[]? ExportFromShell(
        string directory,
        IClock clock,
        Slug slug,
        LocalDate? from,
        LocalDate? to,
        ExportFormat format,
        Uri? root
    )
    {
        using var database = AlmanacDatabase.Open(directory);
        return database.Read(stores =>
            ExportCalendar.Of(stores, slug, from, to, format, root, clock.GetCurrentInstant())
        );
    }

    /// <summary>Adds every act and view. A <see cref="RoomProviders"/>, an <see cref="IMailCarrier"/>, an <see cref="IMailbox"/>, an <see cref="IFileScanner"/> and an
    /// <see cref="AlmanacAddress"/> are to be added beside them.</summary>
    /// <param name="services">Where to.</param>
    /// <param name="directory">The data directory; made where it is missing.</param>
    /// <param name="clock">What the time is.</param>
    /// <param name="uploads">How large a file may be.</param>
    /// <param name="passwordRounds">How often passwords are hashed; fewer only in tests.</param>
    /// <exception cref="Core.Data.DataDirectoryException">The data directory cannot be used.</exception>
    public static IServiceCollection AddAlmanac(
        this IServiceCollection services,
        string directory,
        IClock clock,
        UploadLimit uploads,
        int passwordRounds = Passwords.UsualRounds
    )
    {
        var database = AlmanacDatabase.Open(directory);
        // Given as a function, so that it is closed with the server.
        services
            .AddSingleton(_ => database)
            .AddSingleton(clock)
            .AddSingleton(uploads)
            .AddSingleton(new FileVault(directory))
            .AddSingleton(Secrets.Of(directory));
        services
            .AddSingleton<Gate>()
            .AddSingleton(new Passwords(passwordRounds))
            .AddSingleton<SignIn.SignIn>()
            .AddSingleton<PreviewAs>();
        services
            .AddSingleton<EditPeople>()
            .AddSingleton<EditGroups>()
            .AddSingleton<RosterImport>()
            .AddSingleton<SchoolImport>()
            .AddSingleton<Invitations>()
            .AddSingleton<AddRequests>()
            .AddSingleton<Absences>()
            .AddSingleton<Accounts>()
            .AddSingleton<Share>()
            .AddSingleton<Post>()
            .AddSingleton<SessionLetters>()
            .AddSingleton<ReadAnswers>()
            .AddSingleton<SessionsByMail>()
            .AddSingleton<Reminders>()
            .AddSingleton<LinkLetters>()
            .AddSingleton<DueLetters>()
            .AddSingleton<Outbox>();
        services
            .AddSingleton<CreateSchool>()
            .AddSingleton<SetSchoolTime>()
            .AddSingleton<SetSchoolDefaults>()
            .AddSingleton<AddPeople>()
            .AddSingleton<RollOver>();
        services
            .AddSingleton<SaveCalendar>()
            .AddSingleton<ComposeSeries>()
            .AddSingleton<RemoveSeries>()
            .AddSingleton<QuickAdd>()
            .AddSingleton<ImportFile>()
            .AddSingleton<FetchFile>();
        services.AddSingleton<ChangeSession>().AddSingleton<ExcludeRange>().AddSingleton<UndoEdits>();
        services
            .AddSingleton<Doors>()
            .AddSingleton<EditJoinLinks>()
            .AddSingleton<OperateDoor>()
            .AddSingleton<OpenRoom>()
            .AddSingleton<GiveRule>()
            .AddSingleton<Bulk.BulkChange>()
            .AddSingleton<MoveSeries>()
            .AddSingleton<MoveQuery>()
            .AddSingleton<TestLink>()
            .AddSingleton<Switchboard>();
        services
            .AddSingleton<MendLink>()
            .AddSingleton<JoinCards>()
            .AddSingleton<IRoomNews, RoomNews>()
            .AddSingleton(all => (RoomNews)all.GetRequiredService<IRoomNews>());
        return services
            .AddSingleton<Publications>()
            .AddSingleton<GiveCopy>()
            .AddSingleton<OwnFeeds>()
            .AddSingleton<OwnTimes>()
            .AddSingleton<EmbedSightings>()
            .AddSingleton<MarkDone>()
            .AddSingleton<EditNotices>()
            .AddSingleton<ReadFeed>()
            .AddSingleton<ReadEmbed>()
            .AddSingleton<ReadChanges>()
            .AddSingleton<ArchiveQuery>()
            .AddSingleton<CalendarHeadQuery>()
            .AddSingleton<CalendarHistoryQuery>()
            .AddSingleton<CalendarListQuery>()
            .AddSingleton<FrontPageQuery>()
            .AddSingleton<ClassPageQuery>()
            .AddSingleton<DayQuery>()
            .AddSingleton<MaterialQuery>()
            .AddSingleton<OwnPageQuery>()
            .AddSingleton<PrintSheetQuery>()
            .AddSingleton<SchoolDayQuery>()
            .AddSingleton<SchoolHistoryQuery>()
            .AddSingleton<SchoolPublishingQuery>()
            .AddSingleton<SchoolQuery>()
            .AddSingleton<SearchQuery>()
            .AddSingleton<SetUpQuery>()
            .AddSingleton<TermSheetQuery>()
            .AddSingleton<WeekQuery>()
            .AddSingleton<NewEntryQuery>()
            .AddSingleton<FileCheck>()
            .AddSingleton<SendFiles>()
            .AddSingleton<EditMaterials>();
    }
}
