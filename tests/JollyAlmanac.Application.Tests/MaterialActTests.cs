using System.IO.Compression;
using System.Text;
using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Application.Tests;

/// <summary>Materials as people attach, give, change, find and lose them.</summary>
public sealed class MaterialActTests : IDisposable
{
    private static readonly Slug Slug = TestSchool.Slug;
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly TestSchool school = new();
    private readonly Series series;

    public MaterialActTests()
    {
        series = school.Add();
        // The student is on the class, in full; the helper is a colleague who is not.
        Grant(school.Student, "full");
    }

    public void Dispose() => school.Dispose();

    private void Grant(Viewer who, string level) =>
        school.Execute(
            $"insert into grants (calendar_id, grantee, person_id, level) select id, 'person', {who.Person!.Value.Value}, '{level}' from calendars where slug = '{Slug}'"
        );

    private static Upload File(string name, params byte[] bytes) =>
        new(name, bytes.Length, () => new MemoryStream(bytes));

    private static Upload Pdf(string name, string inside = "") =>
        File(name, Encoding.ASCII.GetBytes("%PDF-1.4 " + name + inside));

    private UploadKey Send(Upload file) =>
        (TestSchool.Done(school.Files.Whole(school.Teacher, Slug, file, Stop).Waited()).Key);

    private string On(string day) => TestSchool.Key(series, $"{day}T09:50").ToString();

    private Material Attach(string place, Upload file, MaterialDetails? details = null)
    {
        TestSchool.Done(
            school.Materials.Attach(
                school.Teacher,
                Slug,
                [new AttachItem(Send(file), place)],
                "",
                details ?? new MaterialDetails()
            )
        );
        return All().MaxBy(one => one.Id.Value)!;
    }

    private IReadOnlyList<Material> All() => school.Database.Read(stores => stores.Materials.Of(series.Calendar));

    private Material Now(Material material) => All().Single(one => one.Id == material.Id);

    private void At(int month, int day, int hour, int minute) =>
        school.Clock.Reset(
            new LocalDateTime(2026, month, day, hour, minute)
                .InZoneStrictly(DateTimeZoneProviders.Tzdb["America/Halifax"])
                .ToInstant()
        );

    [Fact]
    public void Files_are_dealt_out_to_their_sessions_after_a_review_and_undone_in_one_go()
    {
        string[] names = ["15 rocks.pdf", "2026-10-21 winds.pdf", "extra.pdf", "Sheet 26 Oct.pdf", "99 nothing.pdf"];
        var keys = names.Select(name => Send(Pdf(name))).ToList();
        var matchedFile = TestSchool.Done(school.Materials.Deal(school.Teacher, Slug, series.Id, keys));
        Assert.Equal(["15", "16", "13", "17", ""], matchedFile.Select(one => one.Dealt.To?.Number.ToString() ?? ""));
        Assert.Empty(All());
        Assert.Equal(
            "Attached 4 materials to 4 sessions.",
            TestSchool.Done(
                school.Materials.Attach(
                    school.Teacher,
                    Slug,
                    [
                        .. matchedFile
                            .Where(one => one.Dealt.To is not null)
                            .Select(one => new AttachItem(one.File.Key, one.Dealt.To!.Key.ToString())),
                    ],
                    "",
                    new MaterialDetails()
                )
            )
        );
        Assert.Equal(4, All().Count);
        // What was attached is no longer waiting, and cannot be attached twice.
        Assert.Equal(
            "Files",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Teacher,
                        Slug,
                        [new AttachItem(keys[0], On("2026-10-14"))],
                        "",
                        new MaterialDetails()
                    )
                )[0]
                .Field
        );
        Assert.StartsWith(
            "Undid: attached 4 materials",
            TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug)),
            StringComparison.Ordinal
        );
        Assert.Empty(All());
    }

    [Fact]
    public void What_is_not_yet_given_is_in_no_output_and_then_in_all_of_them()
    {
        var feed = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Feed,
                    new PublicationInput("F", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        var embed = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Embed,
                    new PublicationInput("E", AccessLevel.Full, true, true, true, "https://www.skerry.example")
                )
            )
            .Token;
        var own = school.Secrets.TokenOf(TestSchool.Done(school.OwnFeeds.Set(school.Teacher, "15", 0)));
        var sheet = Attach(
            On("2026-10-16"),
            Pdf("zostera answers.pdf"),
            new MaterialDetails("Zostera answers", Release: new ReleaseInput("after", GiveAmount: "30"))
        );
        var whole = Attach(
            MaterialSpot.Everything,
            Pdf("zostera whole.pdf"),
            new MaterialDetails("Zostera whole", Release: new ReleaseInput("from", "2026-10-16T11:10"))
        );
        TestSchool.Done(
            school.Notices.Put(
                school.Teacher,
                Slug,
                null,
                new NoticeInput(
                    "Look",
                    "2026-10-13",
                    "2026-10-30",
                    Material: sheet.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)
                )
            )
        );
        TestSchool.Done(school.ByMail.Remind(school.Student, Slug, "15"));

        // Every place that somebody who does not keep the calendar reads, with the name of the place.
        Dictionary<string, Func<string>> places = new()
        {
            ["class page, visitor"] = () => Page(Viewer.Visitor),
            ["class page, student"] = () => Page(school.Student),
            ["class page, teacher"] = () => Page(school.Teacher),
            ["archive"] = () => Archived("zostera"),
            ["archive, all"] = () => Archived(""),
            ["feed"] = () => school.ReadFeed.Do(feed, TestSchool.Root, _ => false)!.Text!,
            ["own feed of the keeper"] = () => school.ReadFeed.Do(own, TestSchool.Root, _ => false)!.Text!,
            ["embed"] = () =>
                string.Join(
                    '|',
                    school
                        .ReadEmbed.Do(embed)!
                        .Coming.Concat(school.ReadEmbed.Do(embed)!.Coming)
                        .SelectMany(one => one.Materials)
                        .Select(one => one.Title)
                ),
            ["search"] = () =>
                string.Join(
                    '|',
                    school.SearchQuery.Read(school.Student, "zostera")!.Materials.Select(one => one.Material.Title)
                ),
            ["search of the keeper"] = () =>
                string.Join(
                    '|',
                    school.SearchQuery.Read(school.Teacher, "zostera")!.Materials.Select(one => one.Material.Title)
                ),
            ["address"] = () =>
                (school.MaterialQuery.Find(school.Student, sheet.Key)?.Title ?? "")
                + school.MaterialQuery.Find(Viewer.Visitor, whole.Key)?.Title,
            ["day, student"] = () => Day(school.Student),
            ["news"] = () =>
                string.Join(
                    '|',
                    school.OwnPageQuery.Read(school.Student, null)!.New.Select(news => news.Material?.Title)
                ),
            ["notice"] = () =>
                school.ClassPageQuery.Read(school.Student, Slug, false)!.Notices.Single().Material?.Title ?? "",
            ["export"] = () =>
                Encoding.UTF8.GetString(
                    school.Database.Read(stores =>
                        ExportCalendar.Of(
                            stores,
                            Slug,
                            null,
                            null,
                            ExportFormat.Ics,
                            TestSchool.Root,
                            school.Clock.GetCurrentInstant()
                        )
                    )!
                ),
            ["sharing"] = () =>
                string.Join(
                    '|',
                    TestSchool
                        .Done(school.Share.View(school.Teacher, Slug))
                        .Steps.SelectMany(step => step.Slip?.Materials ?? [])
                        .Select(one => one.Title)
                ),
        };
        At(10, 16, 11, 9);
        foreach (var (place, reads) in places)
            Assert.False(
                reads().Contains("ostera", StringComparison.Ordinal),
                $"{place} tells what is hidden until given"
            );
        // The keeper sees it where they work, marked.
        Assert.True(
            school
                .TermSheetQuery.Read(school.Teacher, Slug, null)!
                .Sheet!.Weeks.SelectMany(week => week.Days)
                .SelectMany(day => day.Sessions)
                .SelectMany(one => one.Materials)
                .Single(one => one.Id == sheet.Id)
                .IsHeldBack
        );
        Assert.Equal("Zostera answers", school.MaterialQuery.Find(school.Teacher, sheet.Key)?.Title);
        var before = school.ReadFeed.Do(feed, TestSchool.Root, _ => false)!.ETag;
        At(10, 16, 11, 10);
        Assert.NotEqual(before, school.ReadFeed.Do(feed, TestSchool.Root, _ => false)!.ETag);
        // The session is over, so what shows only what is coming tells the class's material alone.
        foreach (var (place, reads) in places.Where(one => one.Key is not ("embed" or "sharing")))
            Assert.True(reads().Contains("ostera", StringComparison.Ordinal), $"{place} does not tell what is given");

        string Page(Viewer who)
        {
            var page = school.ClassPageQuery.Read(who, Slug, false)!;
            return string.Join(
                '|',
                page.Materials.Concat(page.Past.SelectMany(one => one.Materials))
                    .Concat(page.Top?.Materials ?? [])
                    .Concat(page.Coming.SelectMany(one => one.Materials))
                    .Select(one => one.Title)
            );
        }

        string Archived(string typed)
        {
            var found = school.ArchiveQuery.Read(school.Student, Slug, typed, 0)!;
            return string.Join(
                '|',
                found.Whole.Concat(found.Lines.SelectMany(line => line.Shown.Materials)).Select(one => one.Title)
            );
        }

        string Day(Viewer who) =>
            string.Join(
                '|',
                school
                    .DayQuery.Read(who, new LocalDate(2026, 10, 16), true, null, Stop)
                    .Waited()!
                    .Sessions.SelectMany(one => one.Shown.Materials)
                    .Select(one => one.Title)
            );
    }

    [Fact]
    public void What_was_given_is_given_no_more_after_its_last_day_and_can_be_given_by_hand()
    {
        var sheet = Attach(
            On("2026-10-14"),
            Pdf("a.pdf"),
            new MaterialDetails(Release: new ReleaseInput("hand", LastDay: "2026-10-15"))
        );
        Assert.Null(school.MaterialQuery.Find(school.Student, sheet.Key));
        TestSchool.Done(school.Materials.Give(school.Teacher, Slug, sheet.Id.Value, Now(sheet).Version));
        Assert.NotNull(school.MaterialQuery.Find(school.Student, sheet.Key));
        At(10, 16, 0, 0);
        Assert.Null(school.MaterialQuery.Find(school.Student, sheet.Key));
        // Given again, it has no last day that is past.
        TestSchool.Done(school.Materials.Give(school.Teacher, Slug, sheet.Id.Value, Now(sheet).Version));
        Assert.NotNull(school.MaterialQuery.Find(school.Student, sheet.Key));
    }

    [Theory]
    [InlineData("before", "", "", "", "GiveAmount")]
    [InlineData("before", "", "-5", "", "GiveAmount")]
    [InlineData("from", "soon", "", "", "GiveFrom")]
    [InlineData("from", "2026-10-20T08:00", "", "2026-10-19", "LastDay")]
    [InlineData("never", "", "", "", "Give")]
    [InlineData("now", "", "", "tomorrow", "LastDay")]
    public void A_release_that_cannot_be_is_told_and_nothing_is_attached(
        string give,
        string from,
        string amount,
        string last,
        string field
    )
    {
        var rows = school.Rows();
        Assert.Contains(
            TestSchool.Refused(
                school.Materials.Attach(
                    school.Teacher,
                    Slug,
                    [new AttachItem(null, On("2026-10-16"))],
                    "https://tides.skerry.example",
                    new MaterialDetails(Release: new ReleaseInput(give, from, amount, LastDay: last))
                )
            ),
            one => one.Field == field
        );
        Assert.Equal(rows, school.Rows());
    }

    [Fact]
    public void Before_or_after_a_session_needs_one_session_and_so_does_a_recording()
    {
        var place = MaterialSpot.SeriesKey(series.Id);
        Assert.Equal(
            "Give",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Teacher,
                        Slug,
                        [new AttachItem(null, place)],
                        "https://tides.skerry.example",
                        new MaterialDetails(Release: new ReleaseInput("start"))
                    )
                )[0]
                .Field
        );
        Assert.Equal(
            "IsRecording",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Teacher,
                        Slug,
                        [new AttachItem(null, place)],
                        "https://tides.skerry.example",
                        new MaterialDetails(IsRecording: true)
                    )
                )[0]
                .Field
        );
    }

    [Theory]
    [InlineData("")]
    [InlineData("s999")]
    [InlineData("1.2026-10-12T09:50")]
    [InlineData("1.2026-10-13T09:50")]
    [InlineData("999.2026-10-14T09:50")]
    [InlineData("../all")]
    public void A_place_that_is_none_is_told(string place) =>
        Assert.Equal(
            "Place",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Teacher,
                        Slug,
                        [new AttachItem(null, place)],
                        "https://tides.skerry.example",
                        new MaterialDetails()
                    )
                )[0]
                .Field
        );

    [Fact]
    public void A_contributor_attaches_to_their_own_series_alone()
    {
        Grant(school.Helper, "contributor");
        Outcome<string> Try(string place) =>
            school.Materials.Attach(
                school.Helper,
                Slug,
                [new AttachItem(null, place)],
                "https://tides.skerry.example",
                new MaterialDetails()
            );
        foreach (var place in new[] { MaterialSpot.Everything, MaterialSpot.SeriesKey(series.Id), On("2026-10-16") })
            Assert.Equal("Place", TestSchool.Refused(Try(place))[0].Field);
        var sheet = Attach(On("2026-10-16"), Pdf("a.pdf"));
        foreach (
            var outcome in new[]
            {
                school.Materials.Change(
                    school.Helper,
                    Slug,
                    sheet.Id.Value,
                    null,
                    new MaterialDetails("Mine"),
                    sheet.Version
                ),
                school.Materials.Remove(school.Helper, Slug, sheet.Id.Value, sheet.Version),
                school.Materials.Give(school.Helper, Slug, sheet.Id.Value, sheet.Version),
                school.Materials.Order(school.Helper, Slug, [sheet.Id.Value]),
                school.Materials.Copy(school.Helper, Slug, sheet.Key, MaterialSpot.Everything, true),
            }
        )
            Assert.IsType<Outcome<string>.NotFound>(outcome);
        Assert.Empty(TestSchool.Done(school.Materials.View(school.Helper, Slug)).Series);
        Assert.Null(TestSchool.Done(school.Materials.View(school.Helper, Slug)).Whole);
        school.Execute($"update series set made_by = {school.Helper.Person!.Value.Value}");
        TestSchool.Done(Try(On("2026-10-16")));
        Assert.Equal("Place", TestSchool.Refused(Try(MaterialSpot.Everything))[0].Field);
    }

    [Fact]
    public void A_new_version_keeps_the_address_and_what_it_was_is_for_its_keepers()
    {
        var sheet = Attach(On("2026-10-14"), Pdf("tides.pdf"));
        var next = Send(Pdf("tides, mended.pdf"));
        TestSchool.Done(school.Materials.Replace(school.Teacher, Slug, sheet.Id.Value, next, "", sheet.Version));
        var now = Now(sheet);
        Assert.Equal((sheet.Key, "tides, mended.pdf", 2), (now.Key, now.Title, now.Edition));
        Assert.Equal(
            "tides.pdf",
            Assert
                .IsType<MaterialContent.StoredFile>(school.MaterialQuery.FindEdition(school.Teacher, sheet.Key, 1))
                .Name
        );
        foreach (var other in new[] { school.Student, Viewer.Visitor, school.Helper })
            Assert.Null(school.MaterialQuery.FindEdition(other, sheet.Key, 1));
        // Somebody else's form is older now.
        Assert.IsType<Outcome<string>.Stale>(
            school.Materials.Replace(
                school.Teacher,
                Slug,
                sheet.Id.Value,
                new UploadKey(""),
                "https://tides.skerry.example",
                sheet.Version
            )
        );
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal(("tides.pdf", 1), (Now(sheet).Title, Now(sheet).Edition));
        Assert.True(school.Vault.Has(((MaterialContent.StoredFile)Now(sheet).Content).Hash));
    }

    [Fact]
    public void A_material_moves_is_copied_and_taken_to_another_class_without_telling_whom_it_was_for()
    {
        var sheet = Attach(
            On("2026-10-14"),
            Pdf("a.pdf"),
            new MaterialDetails(Only: new AudienceInput(null, "teodor@skerry.example"))
        );
        TestSchool.Done(
            school.Materials.Change(
                school.Teacher,
                Slug,
                sheet.Id.Value,
                On("2026-10-16"),
                new MaterialDetails("Now Friday's", Only: new AudienceInput(null, "teodor@skerry.example")),
                sheet.Version
            )
        );
        Assert.Equal(
            (new LocalDateTime(2026, 10, 16, 9, 50), "Now Friday's"),
            (Now(sheet).ForSession, Now(sheet).Title)
        );
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "Other",
                    Core.Calendars.CalendarKind.Class,
                    "",
                    "",
                    Core.Calendars.MarkColour.Plum,
                    Core.Calendars.MarkShape.Disc,
                    OpenTo.Anyone
                )
            )
        );
        TestSchool.Done(
            school.Materials.Copy(school.Teacher, new Slug("other"), sheet.Key, MaterialSpot.Everything, move: true)
        );
        Assert.DoesNotContain(All(), one => one.Id == sheet.Id);
        var there = school
            .Database.Read(stores => stores.Materials.Of(stores.Calendars.Find(new Slug("other"))!.Id))
            .Single();
        Assert.Equal((null, (Release)new Release.ByHand()), (there.OnlyFor, there.Release));
        Assert.NotEqual(sheet.Key, there.Key);
        Assert.True(school.MaterialQuery.WasThere(sheet.Key));
        // Who may not change it where it is cannot take it.
        Assert.IsType<Outcome<string>.NotFound>(
            school.Materials.Copy(school.Helper, Slug, there.Key, MaterialSpot.Everything, false)
            is Outcome<string>.NotAllowed
                ? new Outcome<string>.NotFound()
                : new Outcome<string>.Stale(null)
        );
    }

    [Fact]
    public void Materials_are_put_in_an_order_among_those_beside_them_alone()
    {
        var (a, b, c) = (
            Attach(On("2026-10-14"), Pdf("a.pdf")),
            Attach(On("2026-10-14"), Pdf("b.pdf")),
            Attach(On("2026-10-16"), Pdf("c.pdf"))
        );
        TestSchool.Done(school.Materials.Order(school.Teacher, Slug, [b.Id.Value, a.Id.Value]));
        Assert.Equal(["b.pdf", "a.pdf"], new MaterialsOf(All()).Beside(Now(a)).Select(one => one.Title));
        Assert.Contains(
            "beside each other",
            TestSchool.Refused(school.Materials.Order(school.Teacher, Slug, [a.Id.Value, c.Id.Value]))[0].Message,
            StringComparison.Ordinal
        );
        Assert.IsType<Outcome<string>.NotFound>(school.Materials.Order(school.Teacher, Slug, [999]));
    }

    // What each file is, and what is said of it. Nothing of it is stored.
    public static TheoryData<string, byte[], string> Bad =>
        new()
        {
            { "run.exe", [0x4D, 0x5A], "is not a kind" },
            { "notes.pdf.exe", "%PDF-1"u8.ToArray(), "is not a kind" },
            { "notes.exe.pdf", "%PDF-1"u8.ToArray(), "two endings" },
            { "drawing.svg", "<svg onload='x()'/>"u8.ToArray(), "is not a kind" },
            { "page.html", "<script>"u8.ToArray(), "is not a kind" },
            { "photo.png", "%PDF-1.4"u8.ToArray(), "does not look inside" },
            { "photo.png", [0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A, 1, 2, 3], "cannot be read as a picture" },
            { "huge.png", HugePicture(), "more than a browser can show" },
            { "empty.pdf", [], "is empty" },
            { string.Concat(Enumerable.Repeat("🐚", 300)) + ".pdf", "%PDF-1"u8.ToArray(), "150" },
            { "", "%PDF-1"u8.ToArray(), "missing" },
            { "\u0001\u0002", "%PDF-1"u8.ToArray(), "missing" },
            { "bomb.docx", Package("[Content_Types].xml", 60_000_000), "would grow to" },
            { "odd.docx", Package("readme.txt", 10), "does not look inside" },
            { "macro.docx", Package("word/vbaProject.bin", 10), "macros" },
            { "torn.zip", [0x50, 0x4B, 0x03, 0x04, 1, 2, 3], "is damaged" },
            {
                "virus.txt",
                Encoding.ASCII.GetBytes(
                    new string(' ', 70_000)
                        + @"X5O!P%@AP[4\PZX54(P^)7CC)7}$"
                        + "EICAR-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*"
                ),
                "a scanner found"
            },
            { "large.pdf", [.. "%PDF-1"u8, .. new byte[70_000]], "a file may have 64 KB" },
        };

    [Theory]
    [MemberData(nameof(Bad), DisableDiscoveryEnumeration = true)]
    public void A_bad_file_is_told_and_nothing_of_it_is_stored(string name, byte[] bytes, string told)
    {
        ArgumentNullException.ThrowIfNull(bytes);
        // What is harmful only once it is looked into may come in parts, where more is taken.
        var outcome =
            bytes.Length > 64 * 1024 && !told.Contains("64 KB", StringComparison.Ordinal)
                ? InParts(name, bytes)
                : school.Files.Whole(school.Teacher, Slug, File(name, bytes), Stop).Waited().Select(_ => 0L);
        Assert.Contains(
            told,
            string.Join(' ', TestSchool.Refused(outcome).Select(one => one.Message)),
            StringComparison.Ordinal
        );
        AssertNothingStored();
    }

    private void AssertNothingStored()
    {
        Assert.Empty(school.Vault.All());
        Assert.Equal(0L, school.Execute("select count(*) from uploads"));
        Assert.Empty(
            Directory.Exists(Path.Combine(school.Directory, "uploads"))
                ? Directory.GetFiles(Path.Combine(school.Directory, "uploads"))
                : []
        );
    }

    private Outcome<long> InParts(string name, byte[] bytes)
    {
        var begun = school.Files.Begin(school.Teacher, Slug, name, bytes.Length);
        return begun.Then(upload =>
            school.Files.Add(school.Teacher, upload.Key, 0, new MemoryStream(bytes), Stop).Waited()
        );
    }

    // The head of a PNG of 60,000 by 60,000 dots (ISO/IEC 15948 §11.2.2), and no dots.
    private static byte[] HugePicture()
    {
        byte[] chunk = [.. "IHDR"u8, 0, 0, 0xEA, 0x60, 0, 0, 0xEA, 0x60, 8, 2, 0, 0, 0];
        var crc = uint.MaxValue;
        foreach (var one in chunk)
        {
            crc ^= one;
            for (var bit = 0; bit < 8; bit++)
                crc = (crc & 1) != 0 ? crc >> 1 ^ 0xEDB88320 : crc >> 1;
        }

        crc = ~crc;
        byte[] data = [0, 0, 0, 0, .. "IDAT"u8, 0x35, 0xAF, 0x06, 0x1E];
        return
        [
            0x89,
            0x50,
            0x4E,
            0x47,
            0x0D,
            0x0A,
            0x1A,
            0x0A,
            0,
            0,
            0,
            13,
            .. chunk,
            (byte)(crc >> 24),
            (byte)(crc >> 16),
            (byte)(crc >> 8),
            (byte)crc,
            .. data,
        ];
    }

    private static byte[] Package(string entry, int unpacked)
    {
        using var packed = new MemoryStream();
        using (var zip = new ZipArchive(packed, ZipArchiveMode.Create, leaveOpen: true))
        using (var into = zip.CreateEntry(entry).Open())
            into.Write(new byte[unpacked]);
        return packed.ToArray();
    }

    [Theory]
    [InlineData("../../etc/tides.pdf", "tides.pdf")]
    [InlineData(@"C:\Users\orla\tides.pdf", "tides.pdf")]
    [InlineData("ti\u0000d\u202Ees\n.pdf", "ti des .pdf")]
    [InlineData("  tides   one.pdf ", "tides one.pdf")]
    public void A_name_is_only_a_name(string sent, string kept)
    {
        var key = Send(File(sent, "%PDF-1.4"u8.ToArray()));
        Assert.Equal(kept, school.Files.Find(school.Teacher, key)!.Value.File.Name);
        Assert.All(Directory.GetFiles(school.Directory, "*.pdf", SearchOption.AllDirectories), Assert.Null);
    }

    [Fact]
    public void A_file_comes_in_parts_and_is_carried_on_where_it_was()
    {
        byte[] bytes = [.. "%PDF-1.4 "u8, .. new byte[200_000]];
        var upload = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "tides.pdf", bytes.Length));
        Outcome<long> Add(Viewer who, long at, params byte[] part) =>
            school.Files.Add(who, upload.Key, at, new MemoryStream(part), Stop).Waited();
        Assert.Equal(80_000, TestSchool.Done(Add(school.Teacher, 0, bytes[..80_000])));
        // The line breaks in the middle of the next part: what came is there.
        Assert.Equal(
            100_000,
            TestSchool.Done(
                school.Files.Add(school.Teacher, upload.Key, 80_000, new Broken(bytes[80_000..100_000]), Stop).Waited()
            )
        );
        Assert.Equal(100_000, school.Files.Find(school.Teacher, upload.Key)!.Value.Received);
        // Neither before nor after where it is; and it is nobody else's.
        Assert.IsType<Outcome<long>.Stale>(Add(school.Teacher, 99_999, 1));
        Assert.IsType<Outcome<long>.Stale>(Add(school.Teacher, 100_001, 1));
        Assert.IsType<Outcome<long>.NotFound>(Add(school.Coordinator, 100_000, 1));
        Assert.Null(school.Files.Find(school.Coordinator, upload.Key));
        Assert.False(school.Files.Drop(school.Coordinator, upload.Key));
        Assert.Equal(bytes.Length, TestSchool.Done(Add(school.Teacher, 100_000, bytes[100_000..])));
        // Whole now; sending its end again changes nothing.
        Assert.Equal(bytes.Length, TestSchool.Done(Add(school.Teacher, bytes.Length)));
        var file = school.Files.Find(school.Teacher, upload.Key)!.Value.File.File!;
        Assert.Equal(bytes, System.IO.File.ReadAllBytes(school.Vault.PathOf(file.Hash)));
        Assert.Equal(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(bytes)), file.Hash);
        Assert.Empty(Directory.GetFiles(Path.Combine(school.Directory, "uploads")));
    }

    [Fact]
    public void More_than_was_said_is_refused_and_dropped()
    {
        var upload = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "tides.pdf", 10));
        Assert.Contains(
            "More came",
            TestSchool
                .Refused(
                    school.Files.Add(school.Teacher, upload.Key, 0, new MemoryStream(new byte[11]), Stop).Waited()
                )[0]
                .Message,
            StringComparison.Ordinal
        );
        AssertNothingStored();
    }

    private sealed class Broken(byte[] before) : MemoryStream(before)
    {
        public override async ValueTask<int> ReadAsync(
            Memory<byte> buffer,
            CancellationToken cancellationToken = default
        ) =>
            await base.ReadAsync(buffer, cancellationToken) is > 0 and var read
                ? read
                : throw new IOException("The line is lost.");
    }

    [Fact]
    public async Task The_same_file_at_once_is_stored_once()
    {
        var file = Pdf("tides.pdf");
        var sent = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(_ => Task.Run(() => school.Files.Whole(school.Teacher, Slug, file, Stop), Stop))
        );
        var keys = sent.Select(one => TestSchool.Done(one).Key).ToList();
        Assert.Equal(8, keys.Distinct().Count());
        Assert.Single(school.Vault.All());
        TestSchool.Done(
            school.Materials.Attach(
                school.Teacher,
                Slug,
                [.. keys.Take(2).Select(key => new AttachItem(key, On("2026-10-16")))],
                "",
                new MaterialDetails()
            )
        );
        Assert.Equal(file.Length, school.Database.Read(stores => stores.Materials.BytesOf(series.Calendar)));
    }

    [Fact]
    public void The_last_byte_of_the_room_there_is_can_be_used_and_none_more()
    {
        var room = (int)school.Limit.PerCalendar;
        byte[] first = [.. "%PDF-1"u8, .. new byte[200_000]],
            second = [.. "%PDF-2"u8, .. new byte[200_000]];
        foreach (var bytes in new[] { first, second })
        {
            var upload = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, $"{bytes[5]}.pdf", bytes.Length));
            TestSchool.Done(school.Files.Add(school.Teacher, upload.Key, 0, new MemoryStream(bytes), Stop).Waited());
            TestSchool.Done(
                school.Materials.Attach(
                    school.Teacher,
                    Slug,
                    [new AttachItem(upload.Key, MaterialSpot.Everything)],
                    "",
                    new MaterialDetails()
                )
            );
        }

        var left = room - first.Length - second.Length;
        Assert.Contains(
            "do not fit",
            TestSchool.Refused(school.Files.Begin(school.Teacher, Slug, "c.pdf", left + 1))[0].Message,
            StringComparison.Ordinal
        );
        var last = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "c.pdf", left));
        // Begun, it holds no room; as far as it has come, it does. What finds no room when its last part comes is not taken.
        TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "d.pdf", left));
        byte[] bytes3 = [.. "%PDF-3"u8, .. new byte[left - 6]];
        TestSchool.Done(school.Files.Add(school.Teacher, last.Key, 0, new MemoryStream(bytes3[..^1]), Stop).Waited());
        var other = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "e.txt", 1));
        Assert.Contains(
            "do not fit",
            TestSchool.Refused(school.Files.Begin(school.Teacher, Slug, "f.txt", 2))[0].Message,
            StringComparison.Ordinal
        );
        TestSchool.Done(
            school.Files.Add(school.Teacher, last.Key, left - 1, new MemoryStream(bytes3[^1..]), Stop).Waited()
        );
        Assert.Contains(
            "do not fit",
            TestSchool
                .Refused(
                    school.Files.Add(school.Teacher, other.Key, 0, new MemoryStream("x"u8.ToArray()), Stop).Waited()
                )[0]
                .Message,
            StringComparison.Ordinal
        );
    }

    // A disk that is full, as a small one of its own; where none can be mounted, the test says so.
    [Fact]
    public void A_full_disk_is_told_and_what_came_can_be_carried_on()
    {
        var uploads = Path.Combine(school.Directory, "uploads");
        Directory.CreateDirectory(uploads);
        using var mount = System.Diagnostics.Process.Start(
            new System.Diagnostics.ProcessStartInfo("mount", ["-t", "tmpfs", "-o", "size=64k", "tmpfs", uploads])
            {
                RedirectStandardError = true,
            }
        )!;
        mount.WaitForExit();
        Assert.SkipWhen(mount.ExitCode != 0, "No file system can be mounted here.");
        try
        {
            byte[] bytes = [.. "%PDF-1"u8, .. new byte[200_000]];
            var upload = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "tides.pdf", bytes.Length));
            Assert.Contains(
                "no room left",
                TestSchool
                    .Refused(school.Files.Add(school.Teacher, upload.Key, 0, new MemoryStream(bytes), Stop).Waited())[0]
                    .Message,
                StringComparison.Ordinal
            );
            var came = school.Files.Find(school.Teacher, upload.Key)!.Value.Received;
            Assert.InRange(came, 0, 64 * 1024);
            Assert.Empty(school.Vault.All());
            Assert.True(school.Files.Drop(school.Teacher, upload.Key));
        }
        finally
        {
            using var gone = System.Diagnostics.Process.Start("umount", [uploads]);
            gone.WaitForExit();
        }
    }

    [Fact]
    public void Files_go_when_nothing_refers_to_them_after_the_time_of_grace()
    {
        var sheet = Attach(On("2026-10-14"), Pdf("tides.pdf"));
        var hash = ((MaterialContent.StoredFile)sheet.Content).Hash;
        var copy = Attach(On("2026-10-16"), Pdf("tides.pdf"));
        Assert.Equal(hash, ((MaterialContent.StoredFile)copy.Content).Hash);
        void Later(Duration time)
        {
            school.Clock.Advance(time);
            school.Files.Tidy();
        }
        TestSchool.Done(school.Materials.Remove(school.Teacher, Slug, sheet.Id.Value, sheet.Version));
        Later(SendFiles.Grace - Duration.FromMinutes(1));
        Later(Duration.FromHours(2));
        Later(Duration.FromHours(2));
        // The other one has it still.
        Assert.True(school.Vault.Has(hash));
        TestSchool.Done(school.Materials.Remove(school.Teacher, Slug, copy.Id.Value, Now(copy).Version));
        Later(SendFiles.Grace - Duration.FromMinutes(1));
        Assert.True(school.Vault.Has(hash));
        TestSchool.Done(school.GoBack.Undo(school.Teacher, Slug));
        Later(Duration.FromDays(60));
        Later(Duration.FromDays(1));
        Assert.True(school.Vault.Has(hash));
        TestSchool.Done(school.Materials.Remove(school.Teacher, Slug, copy.Id.Value, Now(copy).Version));
        Later(SendFiles.Grace + Duration.FromMinutes(1));
        Later(Duration.FromHours(2));
        Assert.False(school.Vault.Has(hash));
        Assert.False(school.MaterialQuery.WasThere(copy.Key));
        // What is gone for good cannot come back, and that is told.
        Assert.Contains(
            "gone for good",
            TestSchool.Refused(school.GoBack.Undo(school.Teacher, Slug))[0].Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void What_nobody_attaches_goes_after_a_day()
    {
        Send(Pdf("tides.pdf"));
        var half = TestSchool.Done(school.Files.Begin(school.Teacher, Slug, "half.pdf", 100));
        TestSchool.Done(school.Files.Add(school.Teacher, half.Key, 0, new MemoryStream(new byte[50]), Stop).Waited());
        school.Clock.Advance(SendFiles.Waits - Duration.FromMinutes(1));
        school.Files.Tidy();
        Assert.NotNull(school.Files.Find(school.Teacher, half.Key));
        school.Clock.Advance(Duration.FromMinutes(2));
        school.Files.Tidy();
        // An hour passes from when it was first seen that nobody uses it.
        school.Clock.Advance(Duration.FromMinutes(58));
        Assert.Equal(0, school.Files.Tidy());
        school.Clock.Advance(Duration.FromMinutes(4));
        Assert.Equal(1, school.Files.Tidy());
        AssertNothingStored();
    }

    [Fact]
    public void A_material_of_a_class_that_is_put_away_is_there_for_those_who_were_in_it()
    {
        var sheet = Attach(On("2026-10-09"), Pdf("limpets.pdf"));
        var calendar = school.Database.Read(stores => stores.Calendars.Find(Slug)!);
        TestSchool.Done(school.Calendars.Archive(school.Teacher, Slug, calendar.Version));
        Assert.Equal(
            "limpets.pdf",
            school.ArchiveQuery.Read(school.Student, Slug, "limp", 0)!.Lines.Single().Shown.Materials.Single().Title
        );
        Assert.NotNull(school.MaterialQuery.Find(school.Student, sheet.Key));
        // It was open to anyone, who had no part in it.
        foreach (var other in new[] { Viewer.Visitor, school.Helper })
        {
            Assert.Null(school.ArchiveQuery.Read(other, Slug, "", 0));
            Assert.Null(school.MaterialQuery.Find(other, sheet.Key));
        }

        Assert.Null(school.ClassPageQuery.Read(school.Student, Slug, false));
    }

    [Theory]
    [InlineData("limp", "12")]
    [InlineData("LIMPETS", "12")]
    [InlineData("no. 12", "12")]
    [InlineData("9 oct", "12")]
    [InlineData("2026-10-09", "12")]
    [InlineData("boots", "14")]
    [InlineData("boots limp", "")]
    [InlineData("tide room", "*")]
    [InlineData("", "12 11 10 9 8 7 6 5 4 3 2 1")]
    public void The_archive_is_found_by_words_numbers_and_days(string typed, string numbers)
    {
        Attach(On("2026-10-09"), Pdf("Limpets, sheet.pdf"));
        school.Change(series, "2026-10-16T09:50", new SessionInput("tell", Note: "Bring boots"));
        var found = school.ArchiveQuery.Read(school.Student, Slug, typed, 0)!;
        if (numbers == "*")
            Assert.Equal(40, found.Count);
        else
            Assert.Equal(numbers, string.Join(' ', found.Lines.Select(line => line.Shown.Number)));
    }

    [Fact]
    public void What_is_looked_for_is_found_only_by_those_who_may_see_it_and_people_by_the_staff_alone()
    {
        Attach(On("2026-10-16"), Pdf("zostera one.pdf"));
        Attach(On("2026-10-16"), Pdf("zostera two.pdf"), new MaterialDetails(PeopleOnly: true));
        Attach(
            On("2026-10-16"),
            Pdf("zostera three.pdf"),
            new MaterialDetails(Only: new AudienceInput(null, "teodor@skerry.example"))
        );
        var note = Attach(
            MaterialSpot.Everything,
            File("plan.md", Encoding.UTF8.GetBytes("# Zostéra beds\nwithin the text"))
        );
        string Found(Viewer who) =>
            string.Join(
                '|',
                school
                    .SearchQuery.Read(who, "zostera")!
                    .Materials.Select(one => one.Material.Title)
                    .Order(StringComparer.Ordinal)
            );
        Assert.Equal("plan.md|zostera one.pdf|zostera three.pdf|zostera two.pdf", Found(school.Student));
        Assert.Equal("plan.md|zostera one.pdf|zostera three.pdf|zostera two.pdf", Found(school.Teacher));
        // The class is open to anyone; what is only for some is not.
        Assert.Equal("plan.md|zostera one.pdf|zostera two.pdf", Found(school.Helper));
        school.Execute("delete from grants where grantee = 'anyone'");
        Assert.Equal("", Found(school.Helper));
        Assert.Null(school.SearchQuery.Read(Viewer.Visitor, "zostera"));
        Assert.Empty(school.SearchQuery.Read(school.Student, "torrance")!.People);
        Assert.Equal("Eilidh Torrance", school.SearchQuery.Read(school.Teacher, "torr")!.People.Single().Name);
        Assert.Empty(school.SearchQuery.Read(school.Teacher with { LookedAtBy = school.Coordinator }, "torr")!.People);
        // What stands in a description is found by those alone who may read it, with a number or without.
        school.Execute("update grants set level = 'outline' where person_id = " + school.Student.Person!.Value.Value);
        foreach (var typed in new[] { "boots", "boots 13", "boots 14 oct" })
        {
            Assert.Empty(school.SearchQuery.Read(school.Student, typed)!.Sessions);
            Assert.NotEmpty(school.SearchQuery.Read(school.Teacher, typed)!.Sessions);
        }

        // What is taken off is found no more; what means something to the engine is only words here.
        TestSchool.Done(school.Materials.Remove(school.Teacher, Slug, note.Id.Value, note.Version));
        Assert.DoesNotContain("plan.md", Found(school.Student), StringComparison.Ordinal);
        foreach (
            var typed in new[] { "\"", "zostera OR 1", "a* NEAR b", "title:zostera", "'; drop table x; --", "*", "()" }
        )
            Assert.NotNull(school.SearchQuery.Read(school.Student, typed));
    }

    [Fact]
    public void A_word_that_thousands_have_is_found_by_its_title_and_its_reader_first()
    {
        var other = TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "Other",
                    Core.Calendars.CalendarKind.Class,
                    "",
                    "",
                    Core.Calendars.MarkColour.Plum,
                    Core.Calendars.MarkShape.Disc,
                    OpenTo.Named
                )
            )
        );
        school.Database.Write(
            stores =>
            {
                Material Of(Core.Calendars.CalendarId calendar, int at, string title) =>
                    new(
                        default,
                        calendar,
                        null,
                        null,
                        new MaterialKey($"{title}-{calendar.Value}-{at}"),
                        title,
                        new MaterialContent.Link(new Uri("https://x.example/")),
                        MaterialAudience.Anyone
                    );
                stores.Materials.Add(
                    Of(series.Calendar, 0, "kelp of the class"),
                    school.Teacher.Person!.Value,
                    default
                );
                stores.Materials.Add(
                    Of(series.Calendar, 0, "within"),
                    school.Teacher.Person!.Value,
                    default,
                    "a text with kelp in it"
                );
                for (var at = 0; at < 2_100; at++)
                    stores.Materials.Add(Of(other.Id, at, "kelp"), school.Teacher.Person!.Value, default);
                return true;
            },
            _ => true
        );
        Assert.Equal(
            ["kelp of the class", "within"],
            school.SearchQuery.Read(school.Student, "kelp")!.Materials.Select(one => one.Material.Title)
        );
        Assert.Equal(12, school.SearchQuery.Read(school.Teacher, "kelp")!.Materials.Length);
    }

    [Theory]
    [InlineData("tidepool 13", "13")]
    [InlineData("14 oct", "13")]
    [InlineData("no. 14", "14")]
    [InlineData("tidep", "13")]
    [InlineData("boots on friday", "14")]
    [InlineData("tidepool boots", "13")]
    [InlineData("tidepool zebra", "")]
    public void Sessions_are_found_by_their_class_number_day_and_note(string typed, string number)
    {
        school.Change(series, "2026-10-16T09:50", new SessionInput("tell", Note: "Boots on Friday"));
        Assert.Equal(
            number,
            string.Join(' ', school.SearchQuery.Read(school.Student, typed)!.Sessions.Select(one => one.Shown.Number))
        );
    }

    [Fact]
    public void An_own_page_tells_what_is_new_and_what_was_missed_and_a_family_sees_each_childs()
    {
        Assert.Null(school.OwnPageQuery.Read(school.Teacher, null));
        Assert.Null(school.OwnPageQuery.Read(Viewer.Visitor, null));
        Attach(On("2026-10-09"), Pdf("old.pdf"));
        Assert.Equal(
            ["old.pdf"],
            school.OwnPageQuery.Read(school.Student, null)!.New.Select(news => news.Material!.Title)
        );
        school.Clock.Advance(Duration.FromHours(2));
        Attach(On("2026-10-16"), Pdf("new.pdf"));
        var page = school.OwnPageQuery.Read(school.Student, null)!;
        Assert.Equal(["new.pdf"], page.New.Select(news => news.Material!.Title));
        // The same sitting sees the same; who looks as the student leaves no trace.
        school.Clock.Advance(Duration.FromMinutes(10));
        Assert.Single(school.OwnPageQuery.Read(school.Student, null)!.New);
        school.Clock.Advance(Duration.FromHours(3));
        var as_ = school.Student with { LookedAtBy = school.Coordinator };
        Assert.Single(school.OwnPageQuery.Read(as_, null)!.New);
        Assert.Single(school.OwnPageQuery.Read(as_, null)!.New);
        Assert.Empty(school.OwnPageQuery.Read(school.Student, null)!.New);
        // The room of 9 Oct told who was there.
        school.Database.Write(
            stores =>
            {
                stores.JoinLinks.AddAttendance(
                    TestSchool.Key(series, "2026-10-09T09:50"),
                    [("Somebody Else", school.Clock.GetCurrentInstant(), 40)]
                );
                stores.JoinLinks.AddAttendance(
                    TestSchool.Key(series, "2026-10-07T09:50"),
                    [("teodor quill", school.Clock.GetCurrentInstant(), 40)]
                );
                return true;
            },
            _ => true
        );
        Assert.Equal(
            [12],
            school.OwnPageQuery.Read(school.Student, null)!.Missed.Select(one => one.Shown.Number!.Value)
        );
        Assert.Equal(
            [12],
            school
                .ArchiveQuery.Read(school.Student, Slug, "", 0)!
                .Lines.Where(line => line.IsMissed)
                .Select(line => line.Shown.Number!.Value)
        );

        var id = TestSchool.Done(
            school.AddPeople.Do(
                school.Coordinator,
                [new NewPerson("Family Quill", "family@skerry.example", SchoolRole.Family)]
            )
        )[0];
        Viewer Family() => school.Database.Read(stores => stores.People.ViewerOf(id));
        Assert.Contains(
            "no student",
            TestSchool.Refused(school.People.SetChildren(school.Coordinator, id, "orla@skerry.example"))[0].Message,
            StringComparison.Ordinal
        );
        Assert.Empty(school.OwnPageQuery.Read(Family(), null)!.Week);
        Assert.Equal(1, TestSchool.Done(school.People.SetChildren(school.Coordinator, id, "teodor@skerry.example")));
        var own = school.OwnPageQuery.Read(Family(), school.Student.Person)!;
        Assert.Equal(("Teodor Quill", 12), (own.Children.Single().Name, own.Missed.Single().Shown.Number));
        Assert.NotEmpty(own.Week);
        // A family sees what its child sees, and no longer than the child does.
        school.Execute("delete from grants where grantee = 'anyone'");
        Assert.NotEmpty(school.OwnPageQuery.Read(Family(), school.Student.Person)!.Week);
        Assert.NotEmpty(school.DayQuery.Read(Family(), null, true, school.Student.Person, Stop).Waited()!.Sessions);
        school.Execute("delete from grants where grantee = 'person'");
        Assert.Empty(school.OwnPageQuery.Read(Family(), school.Student.Person)!.Week);
        Assert.Empty(school.DayQuery.Read(Family(), null, true, school.Student.Person, Stop).Waited()!.Sessions);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_recording_is_given_as_the_school_has_it(bool waits)
    {
        TestSchool.Done(
            school.SchoolDefaults.Do(school.Coordinator, new SchoolDefaultsInput(OpenTo.Anyone, RecordingsWait: waits))
        );
        var link = school.TermSheetQuery.Read(school.Teacher, Slug, null)!.Links[0];
        school.Execute($"update join_targets set provider = 'stand-in', room = 'r1' where link_id = {link.Id.Value}");
        var now = school.Clock.GetCurrentInstant() + Duration.FromMinutes(50);
        school.Clock.Reset(now);
        byte[] film = [0, 0, 0, 32, .. "ftypisom"u8, .. new byte[100]];
        school.News.MeetingEnded(
            new Joining.EndedMeeting(
                "r1",
                now - Duration.FromMinutes(40),
                now,
                [],
                new Joining.RoomRecording("film.mp4", film.Length, () => new MemoryStream(film))
            )
        );
        var recording = All().Single(one => one.IsRecording);
        // At the door, too, one that waits is not told of.
        Assert.Equal(
            !waits,
            school.Doors.At(link.Code, new Joining.AtDoor(school.Student), Stop).Waited()!.Recorded is not null
        );
        Assert.Equal(!waits, school.MaterialQuery.Find(school.Student, recording.Key) is not null);
        TestSchool.Done(school.Materials.Give(school.Teacher, Slug, recording.Id.Value, recording.Version));
        Assert.NotNull(school.MaterialQuery.Find(school.Student, recording.Key));
    }

    // Where the formats have their text: ECMA-376 (word/document.xml, ppt/slides, xl/sharedStrings.xml), OASIS ODF (content.xml).
    [Theory]
    [InlineData(
        "plan.docx",
        "word/document.xml",
        "<w:document xmlns:w='w'><w:p><w:r><w:t>zost</w:t></w:r><w:r><w:t>era</w:t></w:r></w:p><w:p>beds</w:p></w:document>",
        true
    )]
    [InlineData(
        "plan.pptx",
        "ppt/slides/slide1.xml",
        "<p:sld xmlns:p='p' xmlns:a='a'><a:p><a:t>zostera</a:t></a:p><a:p>beds</a:p></p:sld>",
        true
    )]
    [InlineData("plan.xlsx", "xl/sharedStrings.xml", "<sst><si><t>zostera</t></si><si><t>beds</t></si></sst>", true)]
    [InlineData("plan.odt", "content.xml", "<o xmlns:t='t'><t:h>zostera</t:h><t:p>beds</t:p></o>", true)]
    [InlineData("plan.docx", "word/comments.xml", "<c>zostera beds</c>", false)]
    [InlineData("plan.docx", "word/document.xml", "<!DOCTYPE x [<!ENTITY e 'zostera'>]><x>&e; beds</x>", false)]
    [InlineData("plan.docx", "word/document.xml", "<torn>zostera beds", true)]
    public async Task A_document_is_found_by_what_is_in_it(string name, string part, string xml, bool isFound)
    {
        using var packed = new MemoryStream();
        using (var zip = new ZipArchive(packed, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (entry, text) in new[] { ("[Content_Types].xml", "x"), ("mimetype", "x"), (part, xml) })
            {
                using var into = new StreamWriter(zip.CreateEntry(entry).Open());
                into.Write(text);
            }

        Attach(On("2026-10-16"), File(name, packed.ToArray()));
        await school.Files.ReadWords(
            (path, _) =>
            {
                using var bytes = System.IO.File.OpenRead(path);
                return Task.FromResult(FileCheck.WordsIn(bytes));
            },
            Stop
        );
        Assert.Equal(
            isFound ? [name] : [],
            school.SearchQuery.Read(school.Student, "zostera beds")!.Materials.Select(one => one.Material.Title)
        );
    }

    [Fact]
    public async Task A_pdf_is_found_by_its_words_once_they_were_read_and_each_is_read_once()
    {
        var read = new List<string>();
        Task<string> Words(string path, CancellationToken stopping)
        {
            read.Add(Path.GetFileName(path));
            return Task.FromResult(System.IO.File.ReadAllText(path).Split('=')[^1] + "\0");
        }

        IEnumerable<string> Found(Viewer who) =>
            school.SearchQuery.Read(who, "zostera")!.Materials.Select(one => one.Material.Title);
        var sheet = Attach(On("2026-10-16"), Pdf("sheet.pdf", "=zostera beds"));
        var waits = Attach(
            On("2026-10-19"),
            Pdf("sheet.pdf", "=zostera beds"),
            new MaterialDetails("Waits", Release: new ReleaseInput("hand"))
        );
        Attach(On("2026-10-19"), File("notes.txt", Encoding.ASCII.GetBytes("no words of zostra")));
        // Who stops it loses nothing: it is read next time.
        await Assert.ThrowsAsync<OperationCanceledException>(() =>
            school.Files.ReadWords((_, _) => Task.FromException<string>(new OperationCanceledException()), Stop)
        );
        Assert.Empty(Found(school.Student));
        await school.Files.ReadWords(Words, Stop);
        Assert.Single(read);
        Assert.Equal(["sheet.pdf"], Found(school.Student));
        TestSchool.Done(school.Materials.Give(school.Teacher, Slug, waits.Id.Value, waits.Version));
        Assert.Equal(["Waits", "sheet.pdf"], Found(school.Student).Order(StringComparer.Ordinal));
        // Nothing of the calendar changed by it, and it is not done again.
        Assert.Equal(sheet.Version, Now(sheet).Version);
        await school.Files.ReadWords(Words, Stop);
        Assert.Single(read);
        // Another file in its place brings its own words; the old ones are gone with it.
        TestSchool.Done(
            school.Materials.Replace(
                school.Teacher,
                Slug,
                sheet.Id.Value,
                Send(Pdf("new.pdf", "=wrack")),
                "",
                sheet.Version
            )
        );
        Assert.Equal(["Waits"], Found(school.Student));
        await school.Files.ReadWords(Words, Stop);
        Assert.Equal(2, read.Count);
        Assert.Equal(
            ["new.pdf"],
            school.SearchQuery.Read(school.Student, "wrack")!.Materials.Select(one => one.Material.Title)
        );
        // What is not there cannot be read, and is not asked for again and again.
        school.Execute("insert into unread_files (content_hash) values ('" + new string('0', 64) + "')");
        await school.Files.ReadWords(Words, Stop);
        Assert.Equal((2, 0L), (read.Count, school.Database.Read(stores => (long)stores.Uploads.Unread().Count)));
    }

    [Fact]
    public void What_somebody_else_changed_since_is_not_undone()
    {
        Grant(school.Helper, "editor");
        var sheet = Attach(On("2026-10-14"), Pdf("a.pdf"));
        TestSchool.Done(
            school.Materials.Change(
                school.Helper,
                Slug,
                sheet.Id.Value,
                null,
                new MaterialDetails("Better called"),
                sheet.Version
            )
        );
        Assert.IsType<Outcome<string>.Stale>(school.GoBack.Undo(school.Teacher, Slug));
        Assert.Equal("Better called", Now(sheet).Title);
        // Each undoes their own.
        TestSchool.Done(school.GoBack.Undo(school.Helper, Slug));
        Assert.Equal("a.pdf", Now(sheet).Title);
    }

    [Fact]
    public void The_history_of_a_private_entrys_materials_is_its_makers()
    {
        Grant(school.Helper, "contributor");
        Attach(On("2026-10-14"), Pdf("secret plan.pdf"));
        bool Reads(Viewer who) =>
            school
                .CalendarHistoryQuery.Read(who, Slug, null)!
                .Lines.Any(line => line.Summary.Contains("secret plan", StringComparison.Ordinal));
        Assert.True(Reads(school.Helper));
        school.Execute($"update series set is_private = 1 where id = {series.Id.Value}");
        Assert.False(Reads(school.Helper));
        Assert.True(Reads(school.Teacher));
    }

    [Fact]
    public void A_feed_is_kept_ready_until_next_a_material_is_given_or_given_no_more()
    {
        var token = TestSchool
            .Done(
                school.Outlets.Make(
                    school.Teacher,
                    Slug,
                    PublicationKind.Feed,
                    new PublicationInput("F", AccessLevel.Full, true, true, true)
                )
            )
            .Token;
        Attach(On("2026-10-07"), Pdf("past.pdf"), new MaterialDetails(Release: new ReleaseInput("start")));
        Attach(
            On("2026-10-16"),
            Pdf("b.pdf"),
            new MaterialDetails(Release: new ReleaseInput("before", GiveAmount: "55"))
        );
        FeedBody Read() => school.ReadFeed.Do(token, TestSchool.Root, _ => false)!.Body!;
        // Its last reading is noted within the first minute.
        At(10, 16, 8, 50);
        Read();
        At(10, 16, 8, 54);
        Read();
        var kept = Read();
        Assert.Same(kept, Read());
        At(10, 16, 8, 55);
        Assert.NotSame(kept, Read());
    }

    [Fact]
    public void What_is_on_a_series_that_cannot_be_read_is_nobodys_to_open()
    {
        var sheet = Attach(On("2026-10-14"), Pdf("a.pdf"));
        Assert.NotNull(school.MaterialQuery.Find(school.Student, sheet.Key));
        school.Execute($"update series set pattern = '{{}}' where id = {series.Id.Value}");
        foreach (var who in new[] { school.Student, school.Teacher, Viewer.Visitor })
            Assert.Null(school.MaterialQuery.Find(who, sheet.Key));
    }

    [Fact]
    public void A_file_goes_to_the_calendar_that_it_was_sent_for()
    {
        TestSchool.Done(
            school.Calendars.Create(
                school.Teacher,
                new CalendarInput(
                    "Other",
                    Core.Calendars.CalendarKind.Class,
                    "",
                    "",
                    Core.Calendars.MarkColour.Plum,
                    Core.Calendars.MarkShape.Disc,
                    OpenTo.Named
                )
            )
        );
        Assert.Equal(
            "Files",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Teacher,
                        new Slug("other"),
                        [new AttachItem(Send(Pdf("a.pdf")), MaterialSpot.Everything)],
                        "",
                        new MaterialDetails()
                    )
                )[0]
                .Field
        );
        // Nor is another's file anybody's to attach.
        Grant(school.Helper, "editor");
        Assert.Equal(
            "Files",
            TestSchool
                .Refused(
                    school.Materials.Attach(
                        school.Helper,
                        Slug,
                        [new AttachItem(Send(Pdf("b.pdf")), MaterialSpot.Everything)],
                        "",
                        new MaterialDetails()
                    )
                )[0]
                .Field
        );
    }

    [Fact]
    public void Captions_stand_beside_a_film_of_the_same_name_for_those_who_have_them()
    {
        byte[] film = [0, 0, 0, 32, .. "ftypisom"u8, .. new byte[100]];
        var shown = Attach(On("2026-10-14"), File("limpets.mp4", film));
        Attach(On("2026-10-16"), File("limpets.vtt", "WEBVTT\n\n"u8.ToArray()));
        Assert.Null(school.MaterialQuery.CaptionsOf(school.Student, shown));
        var captions = Attach(
            On("2026-10-14"),
            File("Limpets.vtt", "WEBVTT\n\n"u8.ToArray()),
            new MaterialDetails(Release: new ReleaseInput("hand"))
        );
        Assert.Null(school.MaterialQuery.CaptionsOf(school.Student, shown));
        TestSchool.Done(school.Materials.Give(school.Teacher, Slug, captions.Id.Value, captions.Version));
        Assert.Equal("Limpets.vtt", school.MaterialQuery.CaptionsOf(school.Student, shown)?.Title);
    }

    [Fact]
    public async Task A_small_picture_is_made_once_and_goes_with_its_file()
    {
        using var bitmap = new SkiaSharp.SKBitmap(1200, 600);
        using var image = SkiaSharp.SKImage.FromBitmap(bitmap);
        using var data = image.Encode(SkiaSharp.SKEncodedImageFormat.Png, 100);
        var picture = Attach(On("2026-10-14"), File("shore.png", data.ToArray()));
        var file = (MaterialContent.StoredFile)picture.Content;
        var thumbnails = new Drawn();
        var path = (await school.MaterialQuery.SmallPictureOf(file, thumbnails, Stop))!;
        using var small = SkiaSharp.SKBitmap.Decode(path);
        Assert.Equal((480, 240), (small.Width, small.Height));
        var made = System.IO.File.GetLastWriteTimeUtc(path);
        Assert.Equal(path, await school.MaterialQuery.SmallPictureOf(file, thumbnails, Stop));
        Assert.Equal(made, System.IO.File.GetLastWriteTimeUtc(path));
        school.Vault.Remove(file.Hash);
        Assert.False(System.IO.File.Exists(path));
        Assert.Null(await school.MaterialQuery.SmallPictureOf(file, thumbnails, Stop));
    }

    private sealed class Drawn : IThumbnails
    {
        public Task<byte[]?> Of(string path, CancellationToken stopping)
        {
            if (!System.IO.File.Exists(path))
                return Task.FromResult<byte[]?>(null);
            using var bytes = System.IO.File.OpenRead(path);
            return Task.FromResult(Formats.Drawing.Thumbnail.Of(bytes));
        }
    }
}
