package dachshund.links.file;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TryOutcome;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.reach.Outside;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import java.io.FileOutputStream;
import java.io.InputStream;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileTime;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.apache.poi.xssf.usermodel.XSSFWorkbook;
import org.dhatim.fastexcel.reader.ReadableWorkbook;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Files written and read back by others: CSV and JSON Lines by DuckDB, workbooks by fastexcel's reader, neither of which wrote
 * them.
 */
class FileStoreTest {

    private static final Instant TIME = Instant.parse("2026-11-25T06:00:00.123Z");

    @TempDir
    Path root;

    private RowStore open(String... settings) {
        Map<String, String> all = new HashMap<>(Map.of("folder", "dryer"));
        for (int i = 0; i < settings.length; i += 2) {
            all.put(settings[i], settings[i + 1]);
        }
        assertThat(SettingField.problems(new FolderKind(root, ZoneId.of("Europe/London")).settings(), all))
                .isEmpty();
        return new FolderKind(root, ZoneId.of("Europe/London")).open(all);
    }

    private static Column constant(String name, SqlType type) {
        return Column.of(name, type, new ColumnSource.Constant("x"));
    }

    private static final Layout LAYOUT = new Layout(List.of(
            constant("at", SqlType.timestamp(3)),
            constant("outlet °C", SqlType.DOUBLE),
            constant("lot", SqlType.text(40)),
            constant("count", SqlType.BIGINT),
            constant("exact", SqlType.decimal(12, 3)),
            constant("yes", SqlType.BOOLEAN)));

    /** A heading says more than a column may be called; a changed one begins a new file. */
    @ParameterizedTest
    @ValueSource(strings = {"csv", "xlsx"})
    void aHeadingStandsAboveItsColumnAndRowsAreReadBelowIt(String format) throws Exception {
        List<Column> columns = new ArrayList<>(LAYOUT.columns());
        columns.set(1, columns.get(1).named("outlet").headed("Outlet, dryer 1 [°C]"));
        Layout headed = LAYOUT.withColumns(columns);
        RowStore store = open("format", format);
        store.write(List.of(batch("log", headed, List.of(usual(1), usual(2)))));
        store.write(List.of(batch("log", headed, List.of(usual(3)))));
        assertThat(store.lastRows("log", headed, 5).rows()).hasSize(3).allSatisfy(row -> assertThat(row.get(1))
                .isInstanceOf(Number.class));
        Path file = root.resolve("dryer/log." + format);
        if (format.equals("csv")) {
            assertThat(Files.readString(file)).startsWith("\uFEFFat,\"Outlet, dryer 1 [°C]\",lot");
        } else {
            try (ReadableWorkbook workbook = new ReadableWorkbook(file.toFile())) {
                assertThat(workbook.getFirstSheet().read().get(0).getCellText(1))
                        .isEqualTo("Outlet, dryer 1 [°C]");
            }
        }
        columns.set(1, columns.get(1).headed("Outlet [K]"));
        store.write(List.of(batch("log", LAYOUT.withColumns(columns), List.of(usual(4)))));
        try (Stream<Path> files = Files.list(root.resolve("dryer"))) {
            assertThat(files.filter(each -> each.toString().endsWith(format))).hasSize(2);
        }
    }

    /** Lines one by one: a header once, what was torn off ends as a line of its own, and nothing leaves the folder. */
    @Test
    void singleLinesAreWrittenAtTheEnd() throws Exception {
        FolderKind kind = new FolderKind(root, ZoneId.of("Europe/London"));
        Map<String, String> settings = Map.of("folder", "lots");
        kind.append(settings, Outside.ANYWHERE, "lots.csv", "lot,kilos", "PL1-1,812.5");
        kind.append(settings, Outside.ANYWHERE, "lots.csv", "lot,kilos", "PL1-2,\"a\r\nb\"");
        Path file = root.resolve("lots/lots.csv");
        assertThat(duck("read_csv('" + file + "', all_varchar=true, header=true)"))
                .containsExactly(List.of("PL1-1", "812.5"), List.of("PL1-2", "a\r\nb"));
        Files.writeString(file, "PL1-3,7", java.nio.file.StandardOpenOption.APPEND);
        kind.append(settings, Outside.ANYWHERE, "lots.csv", "lot,kilos", "PL1-4,8");
        assertThat(Files.readString(file)).endsWith("PL1-3,7\r\nPL1-4,8\r\n");
        kind.append(settings, Outside.ANYWHERE, "lots.txt", "", "one");
        assertThat(Files.readString(root.resolve("lots/lots.txt"))).isEqualTo("one\n");
        assertThatThrownBy(() -> kind.append(settings, Outside.ANYWHERE, "../../out.csv", "", "x"))
                .hasMessageContaining("outside");
        assertThatThrownBy(() -> kind.append(settings, Outside.ANYWHERE, "../out.csv", "", "x"))
                .hasMessageContaining("outside the folder lots");
        Files.createDirectories(root.resolve("lots/taken.csv"));
        assertThatThrownBy(() -> kind.append(settings, Outside.ANYWHERE, "taken.csv", "", "x"))
                .isInstanceOf(StoreProblem.class)
                .hasMessageStartingWith("The line was not written to taken.csv");
        assertThat(root.getParent().resolve("out.csv")).doesNotExist();
    }

    private static RowId id(int n) {
        return new RowId("0a1b2c", "deadbeef", 7, n, 0);
    }

    private static Row row(int n, Object... cells) {
        return new Row(id(n), TIME, cells);
    }

    private static Row usual(int n) {
        return row(n, TIME.plusSeconds(n), n + 0.25, "PL1-" + n, (long) n, new BigDecimal("-12.500"), n % 2 == 0);
    }

    private static final List<Row> AWKWARD = List.of(
            row(
                    1,
                    TIME,
                    -0.5,
                    "Späne, \"quoted\"\r\nsecond line",
                    9_007_199_254_740_993L,
                    new BigDecimal("0.001"),
                    true),
            row(2, TIME.plusMillis(1), null, "=HYPERLINK(\"x\")", null, null, null),
            row(3, TIME.plusMillis(2), 1e-7, "-5", -3L, new BigDecimal("123456789.123"), false),
            row(4, TIME.plusMillis(3), 71.5, "", 0L, BigDecimal.ZERO, true));

    private static RowBatch batch(String place, Layout layout, List<Row> rows) {
        return new RowBatch("deadbeef:files", place, layout, false, new WriteMode.Insert(), rows);
    }

    private static void write(RowStore store, String place, List<Row> rows) throws StoreProblem {
        store.write(List.of(batch(place, LAYOUT, rows)));
    }

    private Path file(String name) {
        return root.resolve("dryer").resolve(name);
    }

    private static List<Row> usual(int from, int to) {
        return IntStream.range(from, to).mapToObj(FileStoreTest::usual).toList();
    }

    private List<List<String>> duck(String from) throws Exception {
        try (Connection duck = DriverManager.getConnection("jdbc:duckdb:");
                Statement statement = duck.createStatement();
                ResultSet rows = statement.executeQuery("SELECT * FROM " + from)) {
            List<List<String>> all = new ArrayList<>();
            while (rows.next()) {
                List<String> row = new ArrayList<>();
                for (int i = 1; i <= rows.getMetaData().getColumnCount(); i++) {
                    row.add(rows.getString(i));
                }
                all.add(row);
            }
            return all;
        }
    }

    @Test
    void csvIsReadByAnother() throws Exception {
        RowStore store = open();
        write(store, "log", AWKWARD.subList(0, 2));
        write(store, "log", AWKWARD.subList(2, 4));
        assertThat(Files.readAllBytes(file("log.csv"))).startsWith(0xEF, 0xBB, 0xBF);
        List<List<String>> rows = duck("read_csv('" + file("log.csv") + "', all_varchar=true, header=true)");
        assertThat(rows)
                .containsExactly(
                        java.util.Arrays.asList(
                                "2026-11-25T06:00:00.123Z",
                                "-0.5",
                                "Späne, \"quoted\"\r\nsecond line",
                                "9007199254740993",
                                "0.001",
                                "true"),
                        java.util.Arrays.asList(
                                "2026-11-25T06:00:00.124Z", null, "'=HYPERLINK(\"x\")", null, null, null),
                        java.util.Arrays.asList(
                                "2026-11-25T06:00:00.125Z", "0.0000001", "-5", "-3", "123456789.123", "false"),
                        java.util.Arrays.asList("2026-11-25T06:00:00.126Z", "71.5", null, "0", "0", "true"));
        assertThat(store.lastRows("log", LAYOUT, 2).rows().get(1)).startsWith(TIME.plusMillis(2), 1e-7, "-5", -3L);
    }

    @ParameterizedTest
    @ValueSource(strings = {"csv", "jsonl", "xlsx"})
    void howeverSlowlyADownloadIsTakenNobodyWaitsForIt(String format) throws Exception {
        RowStore store = open("format", format);
        write(store, "log", List.of(usual(1), usual(2)));
        CountDownLatch taking = new CountDownLatch(1);
        CountDownLatch taken = new CountDownLatch(1);
        List<Object> read = Collections.synchronizedList(new ArrayList<>());
        Thread slow = new Thread(() -> {
            try {
                store.readAll("log", LAYOUT, cells -> {
                    taking.countDown();
                    try {
                        taken.await();
                    } catch (InterruptedException stopped) {
                        Thread.currentThread().interrupt();
                    }
                    read.add(cells.get(2));
                });
            } catch (StoreProblem problem) {
                read.add(problem);
            }
        });
        slow.start();
        taking.await();
        write(store, "log", List.of(usual(3)));
        assertThat(store.lastRows("log", LAYOUT, 10).rows()).hasSize(3);
        assertThat(store.tables()).isNotEmpty();
        taken.countDown();
        slow.join();
        assertThat(read).startsWith("PL1-1", "PL1-2");
    }

    /** As a reader finds it that comes while somebody writes. */
    @ParameterizedTest
    @ValueSource(strings = {"csv", "jsonl"})
    void aRowThatIsOnlyHalfWrittenIsNoneYet(String format) throws Exception {
        RowStore store = open("format", format);
        write(store, "log", List.of(usual(1), usual(2)));
        Path file = file("log." + format);
        byte[] whole = Files.readAllBytes(file);
        Files.write(file, java.util.Arrays.copyOf(whole, whole.length - 20));
        List<Object> read = new ArrayList<>();
        store.readAll("log", LAYOUT, cells -> read.add(cells.get(2)));
        assertThat(read).containsExactly("PL1-1");
    }

    @Test
    void csvAsASpreadsheetOfAnotherCountryWantsIt() throws Exception {
        RowStore store = open(
                "separator", "semicolon", "decimal", "comma", "encoding", "latin", "times", "plain", "header", "false");
        write(store, "log", AWKWARD.subList(2, 3));
        assertThat(Files.readString(file("log.csv"), java.nio.charset.Charset.forName("windows-1252")))
                .isEqualTo("2026-11-25 06:00:00.125;0,0000001;-5;-3;123456789,123;false\r\n");
        assertThat(store.lastRows("log", LAYOUT, 1).rows().get(0)).startsWith(TIME.plusMillis(2), 1e-7);
    }

    @Test
    void jsonLinesAreReadByAnother() throws Exception {
        RowStore store = open("format", "jsonl");
        write(store, "log", AWKWARD);
        List<List<String>> rows = duck(
                "read_json('" + file("log.jsonl")
                        + "', format='newline_delimited', columns={\"at\": 'VARCHAR', \"outlet °C\": 'DOUBLE', lot: 'VARCHAR', count: 'BIGINT', exact: 'DECIMAL(12,3)', yes: 'BOOLEAN'})");
        assertThat(rows).hasSize(4);
        assertThat(rows.get(0))
                .containsExactly(
                        "2026-11-25T06:00:00.123Z",
                        "-0.5",
                        "Späne, \"quoted\"\r\nsecond line",
                        "9007199254740993",
                        "0.001",
                        "true");
        assertThat(rows.get(1))
                .containsExactly("2026-11-25T06:00:00.124Z", null, "=HYPERLINK(\"x\")", null, null, null);
        assertThat(Files.readString(file("log.jsonl"))
                        .lines()
                        .skip(1)
                        .findFirst()
                        .orElseThrow())
                .as("what has no value is left out")
                .doesNotContain("outlet", "null");
    }

    /** RFC 3339: with seconds also where there are none; London is an hour ahead in July. */
    @ParameterizedTest
    @CsvSource({
        "csv, plant, 2026-07-01T07:00:00+01:00",
        "csv, utc, 2026-07-01T06:00:00Z",
        "csv, plain, 2026-07-01 06:00:00.000",
        "jsonl, plant, 2026-07-01T07:00:00+01:00",
        "jsonl, utc, 2026-07-01T06:00:00Z",
        "jsonl, plain, 2026-07-01 06:00:00.000"
    })
    void timesAreWrittenAsTheSettingsSayInEveryFormatAndReadBack(String format, String times, String written)
            throws Exception {
        Instant summer = Instant.parse("2026-07-01T06:00:00Z");
        RowStore store = open("format", format, "times", times);
        Row first = AWKWARD.get(0);
        Object[] cells = first.cells().clone();
        cells[0] = summer;
        write(store, "log", List.of(new Row(first.id(), first.recordTime(), cells)));
        assertThat(Files.readString(file("log." + format))).contains(written);
        assertThat(store.lastRows("log", LAYOUT, 1).rows().get(0)).startsWith(summer);
    }

    private List<List<String>> sheet(Path file, int sheet) throws Exception {
        try (InputStream in = Files.newInputStream(file);
                ReadableWorkbook workbook = new ReadableWorkbook(in);
                Stream<org.dhatim.fastexcel.reader.Row> rows =
                        workbook.getSheet(sheet).orElseThrow().openStream()) {
            return rows.map(row -> row.stream()
                            .map(cell -> cell == null ? "" : cell.getText())
                            .toList())
                    .toList();
        }
    }

    @Test
    void aWorkbookIsReadByAnother() throws Exception {
        RowStore store = open("format", "xlsx");
        write(store, "log", AWKWARD.subList(0, 2));
        write(store, "log", AWKWARD.subList(2, 4));
        List<List<String>> rows = sheet(file("log.xlsx"), 0);
        assertThat(rows.get(0)).containsExactly("at", "outlet °C", "lot", "count", "exact", "yes");
        assertThat(rows.get(1).subList(1, 6))
                .containsExactly("-0.5", "Späne, \"quoted\"\r\nsecond line", "9007199254740993", "0.001", "true");
        assertThat(rows.get(2)).as("a text, not a formula").contains("=HYPERLINK(\"x\")");
        assertThat(rows).hasSize(5);
        // 2026-11-25 06:00:00.125 as a serial date of the 1900 system (ISO/IEC 29500-1, 18.17.4): days since 1899-12-30
        assertThat(Double.parseDouble(rows.get(3).get(0)))
                .isCloseTo(
                        java.time.temporal.ChronoUnit.DAYS.between(
                                        java.time.LocalDate.of(1899, 12, 30), java.time.LocalDate.of(2026, 11, 25))
                                + 0.25,
                        org.assertj.core.data.Offset.offset(1e-5));
        assertThat(store.lastRows("log", LAYOUT, 1).rows().get(0)).startsWith(TIME.plusMillis(3), 71.5);
    }

    @Test
    void aTemplateIsFilledBelowItsHeaderRow() throws Exception {
        Files.createDirectories(file(""));
        try (XSSFWorkbook template = new XSSFWorkbook();
                FileOutputStream out = new FileOutputStream(file("shift.xlsx").toFile())) {
            org.apache.poi.xssf.usermodel.XSSFSheet sheet = template.createSheet("Shift");
            sheet.createRow(0).createCell(0).setCellValue("Quillmoor Pellet Works, shift record");
            sheet.createRow(3).createCell(1).setCellValue("Lot");
            sheet.getRow(3).createCell(3).setCellValue("AT");
            template.write(out);
        }
        RowStore store = open("format", "xlsx", "template", "shift.xlsx");
        write(store, "PL1", usual(1, 3));
        write(store, "PL1", usual(3, 4));
        List<List<String>> rows = sheet(file("PL1.xlsx"), 0);
        assertThat(rows.get(0)).contains("Quillmoor Pellet Works, shift record");
        assertThat(rows).hasSize(5);
        assertThat(rows.get(4).get(1)).isEqualTo("PL1-3");
        assertThat(sheet(file("shift.xlsx"), 0)).as("the template stays").hasSize(2);
        assertThat(catchThrowableOfType(
                                StoreProblem.class,
                                () -> write(open("format", "xlsx", "template", "none.xlsx"), "x", usual(1, 2)))
                        .getMessage())
                .contains("template none.xlsx is not in the folder");
    }

    @Test
    void aTemplateWhoseDaysAreCountedFrom1904IsReadAsItWasWritten() throws Exception {
        Files.createDirectories(file(""));
        try (XSSFWorkbook template = new XSSFWorkbook();
                FileOutputStream out = new FileOutputStream(file("old.xlsx").toFile())) {
            template.getCTWorkbook().getWorkbookPr().setDate1904(true);
            org.apache.poi.xssf.usermodel.XSSFRow head =
                    template.createSheet("Old").createRow(0);
            for (Column column : LAYOUT.written()) {
                head.createCell(head.getPhysicalNumberOfCells()).setCellValue(column.name());
            }
            template.write(out);
        }
        RowStore store = open("format", "xlsx", "template", "old.xlsx");
        write(store, "PL1", usual(1, 4));
        assertThat(open("format", "xlsx", "template", "old.xlsx").landed(batch("PL1", LAYOUT, usual(1, 4))))
                .as("found again, times included")
                .hasSize(3);
    }

    @Test
    void aFullFileOrOneWithOtherColumnsIsFollowedByTheNext() throws Exception {
        RowStore store = open("newFileRows", "10");
        for (int n = 0; n < 25; n += 5) {
            write(store, "log", usual(n, n + 5));
        }
        assertThat(duck("read_csv('" + file("log.csv") + "')")).hasSize(10);
        assertThat(duck("read_csv('" + file("log_3.csv") + "')")).hasSize(5);
        Layout other = LAYOUT.plus(constant("more", SqlType.INTEGER));
        open("newFileRows", "10")
                .write(List.of(batch("log", other, List.of(row(30, TIME, 1.0, "x", 1L, BigDecimal.ONE, true, 5L)))));
        assertThat(Files.readString(file("log_4.csv"))).contains("yes,more");
        RowStore small = open("newFileMegabytes", "1");
        for (int n = 0; n < 30; n++) {
            write(small, "by size", usual(n * 1000, n * 1000 + 1000));
        }
        assertThat(file("by size_2.csv")).exists();
    }

    /** Limits of a workbook as in ECMA-376 and XML 1.0 (from memory); the rest of the batch is not touched. */
    @Test
    void whatAWorkbookCannotHoldIsRefusedByItsColumnBeforeAnythingIsWritten() throws Exception {
        RowStore store = open("format", "xlsx");
        write(store, "log", usual(0, 2));
        Map<Row, String> refused = Map.of(
                row(3, Instant.parse("1601-01-01T00:00:00Z"), 1.0, "x", 1L, BigDecimal.ONE, true),
                        "Column at: a workbook holds times from 1900",
                row(4, TIME, Double.NaN, "x", 1L, BigDecimal.ONE, true), "Column outlet °C: a workbook holds no NaN",
                row(5, TIME, 1.0, "x".repeat(32_768), 1L, BigDecimal.ONE, true), "32,767 characters, not 32768",
                row(6, TIME, 1.0, "a\u0001b", 1L, BigDecimal.ONE, true), "no control characters");
        for (Map.Entry<Row, String> each : refused.entrySet()) {
            StoreProblem problem = catchThrowableOfType(
                    StoreProblem.class,
                    () -> store.write(List.of(
                            batch("other", LAYOUT, usual(5, 6)),
                            batch("log", LAYOUT, List.of(usual(7), each.getKey())))));
            assertThat(problem.kind()).isEqualTo(StoreProblem.Kind.CONTENT);
            assertThat(problem.getMessage()).contains(each.getValue());
            assertThat(store.tryOut(batch("log", LAYOUT, List.of(each.getKey())))
                            .sentence())
                    .contains(each.getValue());
        }
        assertThat(file("other.xlsx")).doesNotExist();
        assertThat(store.lastRows("log", LAYOUT, 10).rows()).hasSize(2);
    }

    /** Seen: other programs read A where _x0041_ was written (ECMA-376 part 1, 22.9.2.19; from memory). */
    @Test
    void aTextThatLooksLikeAnEscapeOfWorkbooksIsReadAsItWas() throws Exception {
        RowStore store = open("format", "xlsx");
        Row odd = row(1, TIME, 1.0, "L_x0041_7", 1L, BigDecimal.ONE, true);
        write(store, "log", List.of(odd));
        try (XSSFWorkbook workbook = new XSSFWorkbook(Files.newInputStream(file("log.xlsx")))) {
            List<String> cells = new ArrayList<>();
            workbook.getSheetAt(0).getRow(1).forEach(cell -> cells.add(cell.toString()));
            assertThat(cells).contains("L_x0041_7");
        }
        assertThat(store.lastRows("log", LAYOUT, 1).rows().get(0)).contains("L_x0041_7");
        assertThat(store.landed(batch("log", LAYOUT, List.of(odd)))).hasSize(1);
    }

    @Test
    void lettersThatAnEncodingLacksAreRefusedAndGuardingAgainstFormulasIsASetting() throws Exception {
        RowStore latin = open("encoding", "latin");
        StoreProblem problem = catchThrowableOfType(
                StoreProblem.class,
                () -> write(latin, "log", List.of(row(1, TIME, 1.0, "Ω and 木", 1L, BigDecimal.ONE, true))));
        assertThat(problem.getMessage()).isEqualTo("Column lot: the file's encoding (Windows-1252) has no Ω 木.");
        write(latin, "log", List.of(row(2, TIME, 1.0, "Späne €", 1L, BigDecimal.ONE, true)));
        write(
                open("guarded", "false", "encoding", "utf8"),
                "plain",
                List.of(row(3, TIME, 1.0, "=1+1", 1L, BigDecimal.ONE, true)));
        assertThat(Files.readString(file("plain.csv"))).contains(",=1+1,");
        write(open("encoding", "utf8"), "safe", List.of(row(4, TIME, 1.0, "=1+1", 1L, BigDecimal.ONE, true)));
        assertThat(Files.readString(file("safe.csv"))).contains(",'=1+1,");
    }

    /** Each file is a place of its own. */
    @Test
    void oneFileThatCannotBeWrittenIsAMatterOfItsOwn() throws Exception {
        RowStore store = open();
        write(store, "good", usual(0, 2));
        Files.createDirectory(file("bad.csv")); // a folder where the file should be
        StoreProblem problem = catchThrowableOfType(StoreProblem.class, () -> write(store, "bad", usual(0, 2)));
        assertThat(problem.kind()).isNotEqualTo(StoreProblem.Kind.AWAY);
        write(store, "good", usual(2, 4));
        assertThat(store.allOrNothing()).isFalse();
    }

    /** A file held open by a spreadsheet loses no row (common practice, no source). */
    @Test
    void whileAnotherHoldsAFileItsRowsWait() throws Exception {
        RowStore store = open();
        write(store, "log", usual(0, 2));
        Files.createFile(file(".~lock.log.csv#"));
        StoreProblem busy = catchThrowableOfType(StoreProblem.class, () -> write(store, "log", usual(2, 4)));
        assertThat(busy.kind()).isEqualTo(StoreProblem.Kind.BUSY);
        assertThat(busy.getMessage()).isEqualTo("The file log.csv is held open by another program.");
        Files.delete(file(".~lock.log.csv#"));
        Path classes = Path.of(HoldsAFile.class
                .getProtectionDomain()
                .getCodeSource()
                .getLocation()
                .toURI());
        Process holder = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        classes.toString(),
                        HoldsAFile.class.getName(),
                        file("log.csv").toString())
                .start();
        assertThat(holder.inputReader().readLine()).isEqualTo("held");
        assertThat(catchThrowableOfType(StoreProblem.class, () -> write(store, "log", usual(2, 4)))
                        .kind())
                .isEqualTo(StoreProblem.Kind.BUSY);
        holder.getOutputStream().close();
        holder.waitFor();
        write(store, "log", usual(2, 4));
        assertThat(duck("read_csv('" + file("log.csv") + "')")).hasSize(4);
    }

    /** Cut off anywhere in what was appended, the rows that are whole are found and the torn one is gone; sending the rest makes the file whole. */
    @ParameterizedTest
    @ValueSource(strings = {"csv", "jsonl"})
    void afterABrokenWriteTheEndTellsWhatHasLanded(String format) throws Exception {
        RowStore store = open("format", format);
        write(store, "whole", AWKWARD);
        write(store, "whole", usual(10, 30));
        byte[] whole = Files.readAllBytes(file("whole." + format));
        long before = offsetOf(whole, format);
        Random random = new Random(5);
        for (int i = 0; i < 60; i++) {
            int cut = (int) (before + random.nextInt((int) (whole.length - before + 1)));
            Files.write(file("torn." + format), java.util.Arrays.copyOf(whole, cut));
            RowStore again = open("format", format);
            Set<RowId> landed = again.landed(batch("torn", LAYOUT, usual(10, 30)));
            List<Row> rest = usual(10, 30).stream()
                    .filter(row -> !landed.contains(row.id()))
                    .toList();
            if (!rest.isEmpty()) {
                write(again, "torn", rest);
            }
            assertThat(Files.readAllBytes(file("torn." + format)))
                    .as("cut at " + cut)
                    .isEqualTo(whole);
        }
    }

    private static long offsetOf(byte[] whole, String format) {
        return new String(whole, StandardCharsets.ISO_8859_1)
                .indexOf(format.equals("csv") ? "2026-11-25T06:00:10.123Z" : "{\"at\":\"2026-11-25T06:00:10.123Z\"");
    }

    @Test
    void aWorkbookTellsWhatHasLanded() throws Exception {
        RowStore store = open("format", "xlsx");
        write(store, "log", usual(0, 5));
        write(store, "log", usual(5, 9));
        assertThat(open("format", "xlsx").landed(batch("log", LAYOUT, usual(5, 15))))
                .hasSize(4);
        assertThat(open("format", "xlsx").landed(batch("log", LAYOUT, usual(9, 15))))
                .isEmpty();
    }

    /** What a person changed in a file stays: only our own torn rows are cut off. */
    @Test
    void aFileThatSomebodyEditedGoesOnBelow() throws Exception {
        RowStore store = open();
        write(store, "log", usual(0, 2));
        Files.writeString(file("log.csv"), "a note without a line end", StandardOpenOption.APPEND);
        assertThat(store.landed(batch("log", LAYOUT, usual(2, 4)))).isEmpty();
        write(store, "log", usual(2, 4));
        assertThat(Files.readString(file("log.csv")).lines().toList())
                .hasSize(6)
                .contains("a note without a line end");
    }

    @Test
    void severalFilesInOneCallAreWrittenAllOrNone() throws Exception {
        RowStore store = open();
        write(store, "a", usual(0, 2));
        Files.createFile(file(".~lock.b.csv#"));
        assertThatThrownBy(() -> store.write(List.of(batch("a", LAYOUT, usual(2, 4)), batch("b", LAYOUT, usual(2, 4)))))
                .isInstanceOf(StoreProblem.class);
        assertThat(duck("read_csv('" + file("a.csv") + "')")).hasSize(2);
    }

    @Test
    void aFullFolderMakesRowsWaitAndOldFilesOfItsOwnGo() throws Exception {
        RowStore store = open("quotaMegabytes", "1", "keepDays", "30");
        for (int n = 0; n < 20; n++) {
            try {
                write(store, "log_" + n, usual(n * 1000, n * 1000 + 1000));
            } catch (StoreProblem full) {
                assertThat(full.getMessage()).contains("has reached its 1 MB");
            }
        }
        assertThat(catchThrowableOfType(StoreProblem.class, () -> write(store, "more", usual(0, 1)))
                        .kind())
                .isEqualTo(StoreProblem.Kind.AWAY);
        Instant now = Instant.parse("2026-11-25T02:30:00Z");
        Files.writeString(file("mine.csv"), "kept");
        for (String name : List.of("log_0.csv", "log_1.csv", "mine.csv")) {
            Files.setLastModifiedTime(
                    file(name), FileTime.from(now.minus(Duration.ofDays(name.equals("log_1.csv") ? 29 : 31))));
        }
        store.tidy(now, Set.of("log_0", "log_1", "log_2"));
        assertThat(file("log_0.csv")).doesNotExist();
        assertThat(file("log_1.csv")).exists();
        assertThat(file("mine.csv")).as("not ours").exists();
        write(store, "log_2", usual(0, 1));
    }

    @Test
    void tryingTouchesNothingAndNamesStayInTheFolder() throws Exception {
        RowStore store = open();
        TryOutcome outcome = store.tryOut(batch("log", LAYOUT, usual(1, 2)));
        assertThat(outcome.worked()).as(outcome.sentence()).isTrue();
        assertThat(outcome.cells()).contains("PL1-1");
        assertThat(file("log.csv")).doesNotExist();
        for (String outside : List.of("../x", "/etc/x", "a/../../b", "a\\b", ".hidden", "x.", "a/ /b", "")) {
            assertThat(store.dialect().placeProblem(outside)).as(outside).isPresent();
        }
        assertThat(store.dialect().placeProblem("{yyyy}/{MM}/dryer log-{dd}")).isEmpty();
        assertThat(store.test(Duration.ofSeconds(1))).matches(LinkTest::worked);
        for (String outside : List.of("../x", "/tmp", "a//b", "")) {
            assertThat(SettingField.problems(
                            new FolderKind(root, ZoneId.of("UTC")).settings(), Map.of("folder", outside)))
                    .containsKey("folder");
        }
    }
}
