using System.CommandLine;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Explaining;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.SchoolImports;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using JollyAlmanac.Demo;
using JollyAlmanac.Web.Serving;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Web;

/// <summary>
/// The verbs that the server answers to. Whatever is wrong with a call is told in one line on standard error, with exit
/// code 2, before anything is changed.
/// </summary>
public static class CommandLine
{
    /// <summary>What a wrong call, a taken port or an unusable data directory exits with.</summary>
    public const int Refusal = 2;

    private const int UsualPort = 5085;

    /// <summary>Runs a verb until it is done.</summary>
    public static int Run(string[] args)
    {
        var root = new RootCommand("Jolly Almanac: class calendars, set up once and published everywhere.")
        {
            Demo(),
            Serve(),
            ExplainRule(),
            Sessions(),
            CheckFile(),
            Export(),
            Import(),
            BackUp(),
            Restore(),
            CheckData(),
            Roster(),
            SchoolFiles(),
            FileWorker.Verb(),
        };
        var help = new Command("help", "This text.");
        help.SetAction(_ =>
        {
            Console.Write(HelpText.Of(root));
            return 0;
        });
        root.Add(help);
        var call = root.Parse(args);
        if (call.Errors.Count > 0)
        {
            Console.Error.WriteLine($"almanac: {call.Errors[0].Message} See ./almanac help.");
            return Refusal;
        }

        return call.Invoke();
    }

    private static Command Demo()
    {
        var port = Port();
        var data = new Option<DirectoryInfo>("--data")
        {
            Description = "Where the demo's data is",
            DefaultValueFactory = _ => new DirectoryInfo("data/demo"),
        };
        var at = new Option<string>("--at")
        {
            Description = "Where the demo's clock starts, school time",
            DefaultValueFactory = _ => DemoStory.UsualMoment,
        };
        var fresh = new Option<bool>("--fresh") { Description = "Make the demo's data anew" };
        var command = new Command("demo", "Serve Skerry Isles School, an invented school, with a clock of its own.")
        {
            port,
            data,
            at,
            fresh,
        };
        command.SetAction(call =>
        {
            if (
                LocalDateTimePattern.GeneralIso.Parse(Padded(call.GetValue(at)!))
                is not { Success: true, Value: var moment }
            )
                return Refuse($"--at {call.GetValue(at)} is no moment; write it like {DemoStory.UsualMoment}");
            return Guarded(() =>
            {
                var directory = call.GetValue(data)!.FullName;
                var address = $"http://127.0.0.1:{Free(call.GetValue(port))}";
                var clock = new DemoClock();
                if (call.GetValue(fresh))
                    DemoData.Clear(directory);
                DemoData.Check(directory);
                using var app = AlmanacServer.Build(
                    new AlmanacSettings(
                        directory,
                        [address],
                        clock,
                        StandInRooms: true,
                        Demo: DemoStory.SignIns,
                        OpenId: OpenIdSettings.StandIn
                    )
                );
                var isNew = DemoData.Ensure(app.Services, directory, clock);
                clock.Set(moment.InZoneLeniently(DateTimeZoneProviders.Tzdb[DemoStory.Zone]).ToInstant());
                return Serve(app, () => DemoData.Greeting(app.Services, new Uri(address), isNew, moment));
            });
        });
        return command;
    }

    private static Command Serve()
    {
        var port = Port();
        var data = new Option<DirectoryInfo>("--data")
        {
            Description = "Where the school's data is, or shall be",
            Required = true,
        };
        var urls = new Option<string[]>("--urls")
        {
            Description = "Where to listen, in place of --port: http://…",
            AllowMultipleArgumentsPerToken = true,
        };
        var reached = new Option<string>("--public-address")
        {
            Description = "How the world reaches the almanac, e.g. https://almanac.school.example/",
        };
        var megabytes = new Option<int>("--largest-file")
        {
            Description = "How large an uploaded file may be, in MB",
            DefaultValueFactory = _ => 25,
        };
        var inParts = new Option<int>("--largest-in-parts")
        {
            Description = "How large one may be that a browser sends in parts, in MB",
            DefaultValueFactory = _ => 500,
        };
        var roomOfOne = new Option<int>("--room-per-class")
        {
            Description = "How much the files of one calendar may have, in GB",
            DefaultValueFactory = _ => 2,
        };
        var room = new Option<int>("--room")
        {
            Description = "How much all files may have, in GB",
            DefaultValueFactory = _ => 50,
        };
        var rooms = new Option<bool>("--stand-in-rooms")
        {
            Description = "With a pretended provider of online rooms, to try things out",
        };
        var smtp = new Option<string>("--smtp")
        {
            Description = "A mail server, host:port; without one letters go into the folder mail-drop",
        };
        var smtpUser = new Option<string>("--smtp-user")
        {
            Description = "Who signs in there; the password comes from ALMANAC_SMTP_PASSWORD, or --smtp-password-file",
        };
        var smtpFile = new Option<FileInfo>("--smtp-password-file") { Description = "A file that holds the password" };
        var from = new Option<string>("--mail-from")
        {
            Description = "Whom letters come from, e.g. almanac@school.example",
        };
        var asks = new Option<bool>("--ask-rooms")
        {
            Description = "A test of a join link asks its address over the network",
        };
        var fetches = new Option<bool>("--fetch-files")
        {
            Description = "Calendar files may be fetched by their address, from hosts outside alone",
        };
        var clamd = new Option<string>("--clamd")
        {
            Description = "A ClamAV daemon that scans files, host:port or the path of its socket",
        };
        var openId = new Option<string>("--openid")
        {
            Description = "A provider of OpenID Connect, https://…, where people may sign in",
        };
        var openIdClient = new Option<string>("--openid-client") { Description = "What it knows the almanac by" };
        var openIdFile = new Option<FileInfo>("--openid-secret-file")
        {
            Description = "A file that holds the client's secret; or ALMANAC_OPENID_SECRET",
        };
        var openIdName = new Option<string>("--openid-name")
        {
            Description = "What people call it",
            DefaultValueFactory = _ => "your school account",
        };
        var command = new Command("serve", "Serve a school. The first visit sets it up.")
        {
            port,
            data,
            urls,
            reached,
            megabytes,
            inParts,
            roomOfOne,
            room,
            rooms,
            asks,
            fetches,
            clamd,
            smtp,
            smtpUser,
            smtpFile,
            from,
            openId,
            openIdClient,
            openIdFile,
            openIdName,
        };
        command.SetAction(call =>
        {
            Uri? publicAddress = null;
            SmtpSettings? server = null;
            if (
                call.GetValue(smtp) is { } place
                && (server = Smtp(place, call.GetValue(smtpUser), call.GetValue(smtpFile), call.GetValue(from))) is null
            )
                return Refuse(
                    "--smtp is host:port, and wants --mail-from, an e-mail address; a password file must be there"
                );
            EndPoint? scanner = null;
            if (call.GetValue(clamd) is { } daemon && (scanner = ClamdScanner.ReadAddress(daemon)) is null)
                return Refuse($"--clamd {daemon} is neither host:port nor the path of a socket, which begins with /");
            OpenIdSettings? provider = null;
            if (
                call.GetValue(openId) is { } authority
                && (
                    provider = OpenId(
                        authority,
                        call.GetValue(openIdClient),
                        call.GetValue(openIdFile),
                        call.GetValue(openIdName)!
                    )
                )
                    is null
            )
                return Refuse(
                    "--openid is an address that starts with https://, and wants --openid-client; a secret file must be there"
                );
            if (
                call.GetValue(reached) is { } text
                && !Core.JoinLinks.WebAddress.TryRead(text.TrimEnd('/') + "/", out publicAddress)
            )
                return Refuse(
                    $"--public-address {text} is no web address; write it like https://almanac.school.example/"
                );
            if (
                call.GetValue(urls)
                    ?.FirstOrDefault(url => !url.StartsWith("http://", StringComparison.OrdinalIgnoreCase)) is
                { } other
            )
                return Refuse(
                    $"--urls {other} does not start with http://. TLS is the business of a reverse proxy in front; the README says how"
                );
            if (call.GetValue(megabytes) is not (>= 1 and <= 1000))
                return Refuse("--largest-file is a number of megabytes from 1 to 1000");
            if (call.GetValue(inParts) is not (>= 1 and <= 20_000))
                return Refuse("--largest-in-parts is a number of megabytes from 1 to 20000");
            if (
                call.GetValue(roomOfOne) is not (>= 1 and <= 10_000)
                || call.GetValue(room) is not (>= 1 and <= 1_000_000)
            )
                return Refuse("--room-per-class and --room are numbers of gigabytes, from 1 on");
            const long gigabyte = 1024L * 1024 * 1024;
            return Guarded(() =>
            {
                string[] addresses = call.GetValue(urls) is { Length: > 0 } given
                    ? given
                    : [$"http://127.0.0.1:{Free(call.GetValue(port))}"];
                var settings = new AlmanacSettings(
                    call.GetValue(data)!.FullName,
                    addresses,
                    SystemClock.Instance,
                    publicAddress,
                    new UploadLimit(call.GetValue(megabytes) * 1024L * 1024)
                    {
                        InParts = Math.Max(call.GetValue(megabytes), call.GetValue(inParts)) * 1024L * 1024,
                        PerCalendar = call.GetValue(roomOfOne) * gigabyte,
                        InAll = call.GetValue(room) * gigabyte,
                    },
                    call.GetValue(rooms),
                    call.GetValue(asks),
                    Smtp: server,
                    OpenId: provider,
                    FetchesFiles: call.GetValue(fetches)
                )
                {
                    Scanner = scanner,
                };
                using var app = AlmanacServer.Build(settings);
                return Serve(app, () =>
                    $"Jolly Almanac is at {string.Join(" and ", app.Urls)}\n{FirstRun(app)}"
                    + $"{string.Concat(settings.Simulated.Select(sentence => sentence + "\n"))}Ctrl-C stops it."
                );
            });
        });
        return command;
    }

    private static Command ExplainRule()
    {
        var rule = new Argument<string?>("rule")
        {
            Description = "FREQ=WEEKLY;BYDAY=MO,WE,FR …",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var start = new Option<string>("--start") { Description = "The first time, 2026-09-14T08:00, or a date" };
        var zone = new Option<string>("--zone") { Description = "An IANA zone; without one, times by any clock" };
        var from = new Option<string>("--from") { Description = "Only occurrences from there" };
        var to = new Option<string>("--to") { Description = "Only occurrences before that" };
        var limit = new Option<int?>("--limit") { Description = "How many at most; 50 where no --to is given" };
        var except = new Option<string[]>("--exdate")
        {
            Description = "Times left out",
            AllowMultipleArgumentsPerToken = true,
        };
        var extra = new Option<string[]>("--rdate")
        {
            Description = "Further times",
            AllowMultipleArgumentsPerToken = true,
        };
        var batch = new Option<bool>("--batch")
        {
            Description = "Read questions as lines of JSON, and answer each with a line",
        };
        var command = new Command("explain", "Say what a recurrence rule means, and when.")
        {
            rule,
            start,
            zone,
            from,
            to,
            limit,
            except,
            extra,
            batch,
        };
        command.SetAction(call =>
        {
            if (call.GetValue(batch))
            {
                using var questions = new StreamReader(Console.OpenStandardInput());
                using var answers = new StreamWriter(Console.OpenStandardOutput());
                return Explain.Batch(questions, answers);
            }

            if (call.GetValue(rule) is not { } text || call.GetValue(start) is not { } first)
                return Refuse("explain wants a rule and --start, or --batch");
            var most = call.GetValue(limit) ?? (call.GetValue(to) is null ? 50 : null);
            if (most < 1)
                return Refuse("--limit is a number from 1 up");
            return Explain.One(
                new Explain.Question(
                    text,
                    first,
                    call.GetValue(zone),
                    Listed(call.GetValue(extra)),
                    Listed(call.GetValue(except)),
                    new Explain.Window(call.GetValue(from), call.GetValue(to), most)
                ),
                Console.Out,
                Refuse
            );
        });
        return command;

        static string[] Listed(string[]? values) =>
            [.. (values ?? []).SelectMany(value => value.Split(',', StringSplitOptions.RemoveEmptyEntries))];
    }

    private static Command Sessions()
    {
        var file = new Argument<string>("file") { Description = "An iCalendar file" };
        var zone = new Option<string>("--zone")
        {
            Description = "An IANA zone to tell times in; without one, the file's own",
        };
        var from = new Option<string>("--from") { Description = "The first day, e.g. 2026-11-02" };
        var to = new Option<string>("--to") { Description = "The day after the last" };
        var command = new Command("sessions", "Tell the sessions of any iCalendar file, a line of JSON each.")
        {
            file,
            zone,
            from,
            to,
        };
        command.SetAction(call =>
            Printed(answers =>
                FileCommands.Sessions(
                    call.GetValue(file)!,
                    call.GetValue(zone),
                    call.GetValue(from),
                    call.GetValue(to),
                    answers,
                    Say
                )
            )
        );
        return command;
    }

    private static Command CheckFile()
    {
        var file = new Argument<string>("file") { Description = "An iCalendar file" };
        var command = new Command("check", "Tell every breach of RFC 5545 in an iCalendar file.") { file };
        command.SetAction(call => Printed(answers => FileCommands.Check(call.GetValue(file)!, answers, Say)));
        return command;
    }

    private static Command Export()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var slug = new Option<string>("--calendar")
        {
            Description = "The calendar, as its address has it: french-8",
            Required = true,
        };
        var format = new Option<string>("--format")
        {
            Description = "ics, jcal, jscalendar, csv or sessions",
            DefaultValueFactory = _ => "ics",
        };
        var from = new Option<string>("--from") { Description = "The first day, e.g. 2026-11-02" };
        var to = new Option<string>("--to") { Description = "The day after the last" };
        var reached = new Option<string>("--public-address")
        {
            Description = "How the world reaches the almanac; without it, no files and no ways in are told",
        };
        var command = new Command("export", "Give a calendar out, also while it is served.")
        {
            data,
            slug,
            format,
            from,
            to,
            reached,
        };
        command.SetAction(call =>
        {
            if (!Enum.GetNames<ExportFormat>().Contains(call.GetValue(format)!, StringComparer.OrdinalIgnoreCase))
                return Refuse($"--format {call.GetValue(format)} is none of ics, jcal, jscalendar, csv and sessions");
            Uri? root = null;
            if (
                call.GetValue(reached) is { } text
                && !Core.JoinLinks.WebAddress.TryRead(text.TrimEnd('/') + "/", out root)
            )
                return Refuse(
                    $"--public-address {text} is no web address; write it like https://almanac.school.example/"
                );
            if (
                FileCommands.Day(call.GetValue(from), "--from", Say) is not { } first
                || FileCommands.Day(call.GetValue(to), "--to", Say) is not { } last
            )
                return 2;
            return Guarded(() =>
            {
                var directory = call.GetValue(data)!.FullName;
                if (!DataDirectory.HoldsData(directory))
                    return Refuse($"There is no almanac's data in {directory}.");
                if (
                    !Slug.TryParse(call.GetValue(slug), null, out var calendar)
                    || ServiceRegistration.ExportFromShell(
                        directory,
                        SystemClock.Instance,
                        calendar,
                        first.Day,
                        last.Day,
                        Enum.Parse<ExportFormat>(call.GetValue(format)!, ignoreCase: true),
                        root
                    )
                        is not { } bytes
                )
                    return Refuse(
                        $"There is no calendar “{call.GetValue(slug)}”. Its name stands at the end of its address."
                    );
                using var output = Console.OpenStandardOutput();
                output.Write(bytes);
                return 0;
            });
        });
        return command;
    }

    private static Command Import()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var file = new Argument<string>("file") { Description = "An iCalendar file, or a table of sessions as CSV" };
        var slug = new Option<string>("--calendar")
        {
            Description = "The calendar, as its address has it: french-8",
            Required = true,
        };
        var dry = new Option<bool>("--dry-run") { Description = "Say what it would do, and keep nothing" };
        var json = new Option<bool>("--json") { Description = "Say it as JSON" };
        var command = new Command(
            "import",
            "Take a file of sessions in, also while the almanac is served. The same file again changes nothing."
        )
        {
            file,
            data,
            slug,
            dry,
            json,
        };
        command.SetAction(call =>
            Guarded(() =>
            {
                var (directory, path) = (call.GetValue(data)!.FullName, call.GetValue(file)!);
                if (!DataDirectory.HoldsData(directory))
                    return Refuse($"There is no almanac's data in {directory}.");
                if (!File.Exists(path))
                    return Refuse(
                        Directory.Exists(path) ? $"{path} is a folder. Name a file." : $"There is no file {path}."
                    );
                if (new FileInfo(path).Length > ImportFile.Largest)
                    return Refuse(
                        $"{path} is larger than {ImportFile.Largest / 1024 / 1024} MB. Export a part of it, a year for example."
                    );
                switch (
                    Slug.TryParse(call.GetValue(slug), null, out var calendar)
                        ? ServiceRegistration.ImportFromShell(
                            directory,
                            SystemClock.Instance,
                            calendar,
                            path,
                            call.GetValue(dry)
                        )
                        : new Outcome<ImportReview>.NotFound()
                )
                {
                    case Outcome<ImportReview>.Done { Value: var review }:
                        Console.WriteLine(call.GetValue(json) ? review.ToJson() : review.ToText(call.GetValue(dry)));
                        return 0;
                    case Outcome<ImportReview>.Refused { Problems: [var problem, ..] }:
                        Say($"{path}: {problem.Message}");
                        return 1;
                    default:
                        return Refuse(
                            $"There is no calendar “{call.GetValue(slug)}” in use. Its name stands at the end of its address."
                        );
                }
            })
        );
        return command;
    }

    private static void Say(string words) => Console.Error.WriteLine($"almanac: {words}");

    private static int Printed(Func<TextWriter, int> print)
    {
        using var answers = new StreamWriter(Console.OpenStandardOutput());
        return print(answers);
    }

    private static SmtpSettings? Smtp(string place, string? user, FileInfo? passwordFile, string? from)
    {
        if (
            place.Split(':') is not [{ Length: > 0 } host, var number]
            || !int.TryParse(number, CultureInfo.InvariantCulture, out var port)
            || port is < 1 or > 65535
            || !EmailAddress.TryParse(from, null, out var sender)
        )
            return null;
        if (passwordFile is { Exists: false })
            return null;
        var password = SecretOf(passwordFile, "ALMANAC_SMTP_PASSWORD") ?? "";
        return new SmtpSettings(
            host,
            port,
            user ?? "",
            password,
            new MimeKit.MailboxAddress("The almanac", sender.Value),
            MustEncrypt: host is not ("127.0.0.1" or "::1" or "localhost")
        );
    }

    // Only by TLS, but from this machine itself: codes and tokens travel there.
    private static OpenIdSettings? OpenId(string authority, string? client, FileInfo? secretFile, string name)
    {
        if (
            !Uri.TryCreate(authority, UriKind.Absolute, out var address)
            || string.IsNullOrWhiteSpace(client)
            || !(address.Scheme == Uri.UriSchemeHttps || (address.Scheme == Uri.UriSchemeHttp && address.IsLoopback))
            || secretFile is { Exists: false }
        )
            return null;
        var secret = SecretOf(secretFile, "ALMANAC_OPENID_SECRET");
        return new OpenIdSettings(address, client, string.IsNullOrEmpty(secret) ? null : secret, name);
    }

    // Never by an argument, which every user of the machine may read.
    private static string? SecretOf(FileInfo? file, string variable) =>
        file is not null
            ? File.ReadAllText(file.FullName).TrimEnd('\r', '\n')
            : Environment.GetEnvironmentVariable(variable);

    private static Option<DirectoryInfo> Data(string what) => new("--data") { Description = what, Required = true };

    private static Command BackUp()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var file = new Argument<FileInfo>("file") { Description = "The backup to make" };
        var command = new Command("backup", "Copy all data of a school into one file, also while it is served.")
        {
            file,
            data,
        };
        command.SetAction(call =>
            Guarded(() =>
            {
                var to = call.GetValue(file)!.FullName;
                var files = DataDirectory.BackUp(
                    call.GetValue(data)!.FullName,
                    to,
                    SystemClock.Instance.GetCurrentInstant()
                );
                Console.WriteLine(
                    $"{to} holds the database and {Wording.Count(files, "file", "files")}. Whoever has it has everything: keep it like the data itself."
                );
                return 0;
            })
        );
        return command;
    }

    private static Command Restore()
    {
        var data = Data("The new data directory; must not be there, or be empty");
        var file = new Argument<FileInfo>("file") { Description = "The backup" };
        var command = new Command("restore", "Make a data directory of a backup, once all of it is found right.")
        {
            file,
            data,
        };
        command.SetAction(call =>
            Guarded(() =>
            {
                var to = call.GetValue(data)!.FullName;
                var madeAt = DataDirectory.Restore(call.GetValue(file)!.FullName, to);
                Console.WriteLine($"{to} is as it was on {madeAt}. Serve it with ./almanac serve --data {to}");
                return 0;
            })
        );
        return command;
    }

    private static Command CheckData()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var command = new Command(
            "check-data",
            "Look through all data of a school: whether it is whole and can be read. Changes nothing."
        )
        {
            data,
        };
        command.SetAction(call =>
            Guarded(() =>
            {
                var problems = DataCheck.Of(call.GetValue(data)!.FullName);
                foreach (var problem in problems)
                    Console.WriteLine(problem);
                Console.WriteLine(
                    problems.Count == 0
                        ? "All is well: the database, its references, what it holds, and every file."
                        : $"{Wording.Count(problems.Count, "thing is", "things are")} not right."
                );
                return problems.Count == 0 ? 0 : 1;
            })
        );
        return command;
    }

    private static Command Roster()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var path = new Argument<string>("path")
        {
            Description = "A folder or zip of OneRoster's files, or a table of people as CSV",
        };
        var dry = new Option<bool>("--dry-run") { Description = "Say what it would do, and keep nothing" };
        var json = new Option<bool>("--json") { Description = "Say it as JSON" };
        var end = new Option<bool>("--end-gone") { Description = "Those who are not in it any more leave" };
        var role = new Option<string>("--role")
        {
            Description = "What those are of whom it does not say it: student, teacher, family, guest",
            DefaultValueFactory = _ => "student",
        };
        var group = new Option<string>("--group") { Description = "The name of a group that all of them come into" };
        var command = new Command(
            "roster",
            "Bring people and class lists in, for a nightly run. Nobody is removed without --end-gone."
        )
        {
            path,
            data,
            dry,
            json,
            end,
            role,
            group,
        };
        command.SetAction(call =>
        {
            if (Core.Rosters.PeopleTable.RoleOf(call.GetValue(role)!) is not { } chosen)
                return Refuse($"--role {call.GetValue(role)} is no role; roles are student, teacher, family and guest");
            return Guarded(() =>
            {
                var directory = call.GetValue(data)!.FullName;
                if (!DataDirectory.HoldsData(directory))
                    return Refuse($"There is no almanac's data in {directory}.");
                try
                {
                    var done = ServiceRegistration.ImportRosterFromShell(
                        directory,
                        SystemClock.Instance,
                        call.GetValue(path)!,
                        new RosterImportChoices(chosen, call.GetValue(group), EndGone: call.GetValue(end)),
                        call.GetValue(dry),
                        // Beside the answer, so that the answer alone can be piped on.
                        (at, of) =>
                        {
                            if (of >= 1_000)
                                Console.Error.WriteLine($"almanac: {at} of {of} people");
                        }
                    );
                    Console.WriteLine(call.GetValue(json) ? done.ToJson() : done.ToText(call.GetValue(dry)));
                    return 0;
                }
                catch (FormatException refusal)
                {
                    return Refuse(refusal.Message);
                }
            });
        });
        return command;
    }

    private static Command SchoolFiles()
    {
        var data = Data("The data directory; the almanac may be serving it");
        var paths = new Argument<string[]>("path")
        {
            Description = "Files and folders: OneRoster's, timetables, days without class, bells, rooms",
            Arity = ArgumentArity.OneOrMore,
        };
        var term = new Option<string>("--term") { Description = "The term that the timetables are for" };
        var dry = new Option<bool>("--dry-run") { Description = "Say what it would do, and keep nothing" };
        var json = new Option<bool>("--json") { Description = "Say it as JSON" };
        var end = new Option<bool>("--end-gone") { Description = "What the files no longer have ends" };
        var command = new Command(
            "school",
            "Make a whole school of its files, or bring newer ones. What was changed by hand stays."
        )
        {
            paths,
            data,
            term,
            dry,
            json,
            end,
        };
        command.SetAction(call =>
            Guarded(() =>
            {
                var directory = call.GetValue(data)!.FullName;
                if (!DataDirectory.HoldsData(directory))
                    return Refuse($"There is no almanac's data in {directory}.");
                try
                {
                    var done = ServiceRegistration.ImportSchoolFromShell(
                        directory,
                        SystemClock.Instance,
                        call.GetValue(paths)!,
                        new SchoolImportChoices(EndGone: call.GetValue(end)) { Term = call.GetValue(term) },
                        call.GetValue(dry)
                    );
                    Console.WriteLine(call.GetValue(json) ? done.ToJson() : done.ToText(call.GetValue(dry)));
                    return done.IsWhole ? 0 : 1;
                }
                catch (FormatException refusal)
                {
                    return Refuse(refusal.Message);
                }
            })
        );
        return command;
    }

    private static string FirstRun(WebApplication app) =>
        app.Services.GetRequiredService<Application.Schools.CreateSchool>().IsDone
            ? ""
            : $"No school is set up here yet. Open that address and give this code:  {app.Services.GetRequiredService<SetUpCode>().Text}\n";

    private static int Serve(WebApplication app, Func<string> greeting)
    {
        app.Start();
        Console.WriteLine(greeting());
        app.WaitForShutdown();
        return 0;
    }

    private static int Guarded(Func<int> run)
    {
        try
        {
            return run();
        }
        catch (Exception refusal) when (refusal is DataDirectoryException or DataCopyException)
        {
            return Refuse(refusal.Message);
        }
        catch (Exception refusal)
            when (refusal is IOException or SocketException or FormatException or InvalidOperationException
                && IsAboutListening(refusal)
            )
        {
            return Refuse($"It cannot listen there: {refusal.Message}");
        }
    }

    private static bool IsAboutListening(Exception refusal) =>
        refusal is SocketException or FormatException
        || refusal.InnerException is SocketException or Microsoft.AspNetCore.Connections.AddressInUseException
        || refusal.Message.Contains("address", StringComparison.OrdinalIgnoreCase);

    // Asked before anything is made, so that a taken port leaves no data behind.
    private static int Free(int port)
    {
        using var probe = new TcpListener(IPAddress.Loopback, port) { ExclusiveAddressUse = true };
        try
        {
            probe.Start();
        }
        catch (SocketException)
        {
            throw new DataDirectoryException($"Port {port} is taken. Choose another with --port.");
        }

        return ((IPEndPoint)probe.LocalEndpoint).Port;
    }

    private static Option<int> Port()
    {
        var port = new Option<int>("--port")
        {
            Description = "The port on 127.0.0.1",
            DefaultValueFactory = _ => UsualPort,
        };
        port.Validators.Add(given =>
        {
            if (
                given.Tokens.Count == 1
                && (
                    !int.TryParse(given.Tokens[0].Value, CultureInfo.InvariantCulture, out var number)
                    || number is < 0 or > 65535
                )
            )
                given.AddError($"--port {given.Tokens[0].Value} is no port; it is a number up to 65535.");
        });
        return port;
    }

    private static string Padded(string moment) => moment.Length == "2026-10-14T09:41".Length ? moment + ":00" : moment;

    private static int Refuse(string reason)
    {
        Console.Error.WriteLine($"almanac: {reason}");
        return Refusal;
    }
}
