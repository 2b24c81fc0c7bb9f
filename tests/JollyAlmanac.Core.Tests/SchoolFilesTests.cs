using System.IO.Compression;
using System.Text;
using JollyAlmanac.Core.Timetables;
using JollyAlmanac.Formats;

namespace JollyAlmanac.Core.Tests;

/// <summary>Files of a school are known by what is in them. Workbooks are written here by hand, part by part, as ECMA-376 has them.</summary>
public sealed class SchoolFilesTests
{
    private static byte[] Zip(params (string Name, string Text)[] parts)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (name, text) in parts)
                using (var writer = new StreamWriter(zip.CreateEntry(name).Open()))
                    writer.Write(text);
        return bytes.ToArray();
    }

    private static string Cells(params string[] rows) =>
        string.Concat(
            rows.Select(
                (row, at) =>
                    $"<row r=\"{at + 1}\">{string.Concat(row.Split('|').Select((cell, column) => Cell(cell.Trim(), $"{(char)('A' + column)}{at + 1}")))}</row>"
            )
        );

    // "=4.5:1" is the number 4.5 in the first style.
    private static string Cell(string text, string at) =>
        text.Length == 0 ? ""
        : text[0] == '=' ? $"<c r=\"{at}\" s=\"{text.Split(':')[1]}\"><v>{text[1..].Split(':')[0]}</v></c>"
        : $"<c r=\"{at}\" t=\"inlineStr\"><is><t>{text}</t></is></c>";

    private static byte[] Workbook(
        bool since1904,
        params (string Name, string State, string Cells, string Merged)[] sheets
    )
    {
        const string Main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
        const string Rel = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
        return Zip([
            (
                "[Content_Types].xml",
                "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Default Extension=\"xml\" ContentType=\"application/xml\"/></Types>"
            ),
            (
                "xl/workbook.xml",
                $"<workbook xmlns=\"{Main}\" xmlns:r=\"{Rel}\"><workbookPr{(since1904 ? " date1904=\"1\"" : "")}/><sheets>{string.Concat(sheets.Select((one, at) => $"<sheet name=\"{one.Name}\" sheetId=\"{at + 1}\" state=\"{one.State}\" r:id=\"rId{at + 1}\"/>"))}</sheets></workbook>"
            ),
            (
                "xl/_rels/workbook.xml.rels",
                $"<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">{string.Concat(sheets.Select((_, at) => $"<Relationship Id=\"rId{at + 1}\" Type=\"{Rel}/worksheet\" Target=\"worksheets/sheet{at + 1}.xml\"/>"))}<Relationship Id=\"rIdS\" Type=\"{Rel}/styles\" Target=\"styles.xml\"/></Relationships>"
            ),
            (
                "xl/styles.xml",
                $"<styleSheet xmlns=\"{Main}\"><cellXfs count=\"3\"><xf numFmtId=\"0\"/><xf numFmtId=\"14\" applyNumberFormat=\"1\"/><xf numFmtId=\"20\" applyNumberFormat=\"1\"/></cellXfs></styleSheet>"
            ),
            .. sheets.Select(
                (one, at) =>
                    (
                        $"xl/worksheets/sheet{at + 1}.xml",
                        $"<worksheet xmlns=\"{Main}\"><sheetData>{one.Cells}</sheetData>{(one.Merged.Length > 0 ? $"<mergeCells><mergeCell ref=\"{one.Merged}\"/></mergeCells>" : "")}</worksheet>"
                    )
            ),
        ]);
    }

    [Theory]
    [InlineData("users.csv", "sourcedId,role,givenName,familyName\nu1,teacher,Odo,Lund", SchoolFileKind.Roster)]
    [InlineData("people.csv", "Name,Email\nOdo,odo@skerry.example", SchoolFileKind.People)]
    [InlineData("t.csv", "Class;Day;Period\nKnots;Mon;1", SchoolFileKind.Timetable)]
    [InlineData("t.tsv", "Class\tDay\tPeriod\nKnots\tMon\t1", SchoolFileKind.Timetable)]
    [InlineData("g.csv", ",Mon,Tue,Wed\n1,Knots,,\n2,,Nets,", SchoolFileKind.Grid)]
    [InlineData("r.csv", "Class,Join link\nKnots,https://rooms.skerry.example/1", SchoolFileKind.Rooms)]
    [InlineData("b.csv", "Period,Start,End\n1,8:00,8:50", SchoolFileKind.Bells)]
    [InlineData("d.csv", "From,To,Holiday\n2026-10-12,2026-10-12,Thanksgiving", SchoolFileKind.NoClassDays)]
    [InlineData("days.ics", "BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n", SchoolFileKind.Calendar)]
    [InlineData("odd.txt", "neither fish\nnor fowl", SchoolFileKind.Unknown)]
    public void A_file_is_known_by_what_is_in_it(string name, string text, SchoolFileKind kind)
    {
        Assert.Equal(kind, Assert.Single(SchoolFiles.Read(name, Encoding.UTF8.GetBytes(text))).Kind);
        // In UTF-16 with its mark, too.
        var wide = Encoding.Unicode.GetPreamble().Concat(Encoding.Unicode.GetBytes(text)).ToArray();
        if (kind is not SchoolFileKind.Calendar)
            Assert.Equal(kind, Assert.Single(SchoolFiles.Read(name, wide)).Kind);
    }

    [Fact]
    public void A_workbook_is_its_sheets_but_for_those_that_are_hidden_or_empty()
    {
        var bytes = Workbook(
            false,
            ("9A", "visible", Cells("| Mon | Tue | Wed", "1 | Biology | |", "2 | | Knots |"), "B2:B3"),
            ("Notes", "hidden", Cells("Class | Day | Period", "Secret | Mon | 1"), ""),
            ("Empty", "visible", "", ""),
            (
                "List",
                "visible",
                // 46303 is 8 October 2026, 0.3333333 is 8:00; by number format 14 (a date) and 20 (h:mm).
                Cells(
                    "Autumn",
                    "Class | Day | Start | End | Start date",
                    "Nets | Tue | =0.333333333:2 | =0.368055556:2 | =46303:1"
                ),
                ""
            )
        );
        var files = SchoolFiles.Read("school.xlsx", bytes);
        Assert.Equal([SchoolFileKind.Grid, SchoolFileKind.Timetable], files.Select(file => file.Kind));
        Assert.Equal("school.xlsx, 9A", files[0].Name);
        Assert.Equal(
            ["Biology 9A 1-2", "Knots 9A 2"],
            new TimetableGrid(_ => false)
                .Read(files[0].Sheet!)
                .Meetings.Select(one => $"{one.Class} {one.Times.Periods}")
        );
        var nets = Assert.Single(TimetableTable.Read(files[1].Sheet!).Meetings);
        Assert.Equal(("08:00-08:50", "2026-10-08", 3), (nets.Times.Clock, nets.Times.From, nets.Line));
    }

    [Fact]
    public void Days_are_numbers_by_either_date_system()
    {
        // The other system begins 1,462 days later (ECMA-376, part 1, 18.17.4.1).
        var bytes = Workbook(
            true,
            ("List", "visible", Cells("Class | Day | Period | Start date", "Nets | Tue | 1 | =44841:1"), "")
        );
        Assert.Equal(
            "2026-10-08",
            TimetableTable.Read(SchoolFiles.Read("a.xlsx", bytes)[0].Sheet!).Meetings[0].Times.From
        );
    }

    [Fact]
    public void The_files_of_an_export_are_one_and_a_zip_within_a_zip_is_none()
    {
        var files = SchoolFiles.Read(
            "export.zip",
            Zip(
                ("manifest.csv", "propertyName,value\nfile.users,bulk"),
                ("users.csv", "sourcedId,role,givenName,familyName\nu1,teacher,Odo,Lund"),
                ("classes.csv", "sourcedId,title\nc1,Knots"),
                ("t.csv", "Class,Day,Period\nKnots,Mon,1"),
                ("inner.zip", Encoding.Latin1.GetString(Zip(("t.csv", "Class,Day,Period\nNets,Mon,1"))))
            )
        );
        Assert.Equal(
            "Roster export.zip; Timetable export.zip, t.csv",
            string.Join(
                "; ",
                files.Where(file => file.Kind != SchoolFileKind.Unknown).Select(file => $"{file.Kind} {file.Name}")
            )
        );
        Assert.Equal(3, files[0].Tables!.Count);
    }

    [Theory]
    [InlineData("half", "cannot be")]
    [InlineData("nothing", "There is no")]
    [InlineData("old", "cannot be read as a workbook")]
    [InlineData("bomb", "far too large")]
    public void What_cannot_be_read_is_told(string what, string told)
    {
        var whole = Workbook(false, ("9A", "visible", Cells("| Mon | Tue | Wed", "1 | Biology | |"), ""));
        var bytes = what switch
        {
            "half" => whole[..(whole.Length / 2)],
            "nothing" => Zip(("folder/", "")),
            "old" => [0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1, .. new byte[600]],
            _ => Zip(("t.csv", new string('a', 210 * 1024 * 1024))),
        };
        var refusal = Assert.Throws<FormatException>(() => SchoolFiles.Read("school.xlsx", bytes));
        Assert.Contains(told, refusal.Message, StringComparison.Ordinal);
    }
}
