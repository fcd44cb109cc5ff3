package dachshund.office.export;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.awaitility.Awaitility.await;

import blue.strategic.parquet.Hydrator;
import blue.strategic.parquet.HydratorSupplier;
import blue.strategic.parquet.ParquetReader;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.office.heavy.Heavy;
import dachshund.office.heavy.HeavyParquet;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.apache.parquet.schema.MessageType;
import org.apache.poi.xssf.usermodel.XSSFSheet;
import org.apache.poi.xssf.usermodel.XSSFWorkbook;
import org.dhatim.fastexcel.reader.ReadableWorkbook;
import org.dhatim.fastexcel.reader.Row;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Rows into files, read back by readers that the product does not use: Parquet by parquet-java (the reference implementation of
 * Apache Parquet), workbooks by fastexcel-reader.
 */
class ExportsTest {

    private static final Instant TIME = Instant.parse("2026-11-28T06:00:00.123456Z");

    /** No limit that is meant here: the second process gives way to all others, and both cores may be busy with tests. */
    private static final Duration PATIENT = Duration.ofMinutes(3);

    @TempDir
    Path folder;

    private Heavy heavy;
    private Exports exports;

    @BeforeEach
    void begin() {
        heavy = new Heavy(folder.resolve("heavy"), new Heavy.Limits(900_000_000L, PATIENT, Duration.ofMillis(200)));
        exports = new Exports(heavy);
    }

    @AfterEach
    void end() {
        heavy.close();
    }

    private static List<TableShape.Column> columns(String... names) {
        return Stream.of(names)
                .map(name -> new TableShape.Column(name, "", name.equals("at") ? Sort.STAMP : Sort.OTHER, true))
                .toList();
    }

    private byte[] write(FileFormat format, List<TableShape.Column> columns, List<List<Object>> rows)
            throws IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (TableOut out = exports.open(format, bytes)) {
            out.columns(columns);
            for (List<Object> row : rows) {
                out.row(row);
            }
            out.finish();
        }
        return bytes.toByteArray();
    }

    private static final List<TableShape.Column> COLUMNS =
            columns("id", "at", "kWh", "exact", "yes", "day", "clock", "a \"text\"", "large");

    private static final List<List<Object>> ROWS = List.of(
            Arrays.asList(
                    1L,
                    TIME,
                    0.1,
                    new BigDecimal("1234567890123456.7890"),
                    true,
                    LocalDate.of(2026, 3, 29),
                    LocalTime.of(6, 0, 0, 5000),
                    "=1+1, \"ä\"\n",
                    new BigInteger("18446744073709551615")),
            Arrays.asList(Long.MIN_VALUE, null, null, null, null, null, null, null, null));

    @Test
    void csvHasEveryDigitAndIsSafeForSpreadsheets() throws IOException {
        assertThat(new String(write(FileFormat.CSV, COLUMNS, ROWS), StandardCharsets.UTF_8))
                .isEqualTo(
                        "\uFEFFid,at,kWh,exact,yes,day,clock,\"a \"\"text\"\"\",large\r\n1,2026-11-28T06:00:00.123456Z,0.1,1234567890123456.7890,true,2026-03-29,06:00:00.000005,\"'=1+1, \"\"ä\"\"\n\",18446744073709551615\r\n-9223372036854775808,,,,,,,,\r\n");
    }

    @Test
    void timesOfCsvAreThoseOfRfc3339() throws IOException {
        List<List<Object>> times = Stream.of(
                        "2026-11-28T06:00:00Z",
                        "2026-11-28T06:00:59.999Z",
                        "2026-11-28T06:01:00.010Z",
                        "1969-12-31T23:59:59.500Z",
                        "0001-01-01T00:00:00Z",
                        "+10000-01-01T00:00:07Z",
                        "2026-11-28T06:01:00.000001Z",
                        "2026-11-28T06:01:09Z")
                .<List<Object>>map(text -> List.of(Instant.parse(text)))
                .toList();
        assertThat(new String(write(FileFormat.CSV, columns("at"), times), StandardCharsets.UTF_8)
                        .lines()
                        .skip(1))
                .containsExactlyElementsOf(
                        times.stream().map(row -> row.get(0).toString()).toList());
    }

    @Test
    void jsonLinesAreAnObjectEach() throws IOException {
        assertThat(new String(write(FileFormat.JSON_LINES, COLUMNS, ROWS), StandardCharsets.UTF_8))
                .isEqualTo(
                        "{\"id\":1,\"at\":\"2026-11-28T06:00:00.123456Z\",\"kWh\":0.1,\"exact\":1234567890123456.7890,\"yes\":true,\"day\":\"2026-03-29\",\"clock\":\"06:00:00.000005\",\"a \\\"text\\\"\":\"=1+1, \\\"ä\\\"\\n\",\"large\":18446744073709551615}\n{\"id\":-9223372036854775808,\"at\":null,\"kWh\":null,\"exact\":null,\"yes\":null,\"day\":null,\"clock\":null,\"a \\\"text\\\"\":null,\"large\":null}\n");
        assertThat(write(FileFormat.JSON_LINES, COLUMNS, List.of())).isEmpty();
    }

    @Test
    void aWorkbookHoldsNumbersAndTimesAsSuchAndNothingThatItWouldRound() throws IOException {
        byte[] bytes = write(FileFormat.WORKBOOK, COLUMNS, ROWS);
        try (ReadableWorkbook workbook = new ReadableWorkbook(new ByteArrayInputStream(bytes))) {
            List<Row> rows = workbook.getFirstSheet().read();
            assertThat(rows.get(0).getCellText(1)).isEqualTo("at (UTC)");
            assertThat(rows.get(1).getCellAsNumber(0)).hasValue(BigDecimal.ONE);
            assertThat(rows.get(1).getCellAsDate(1).orElseThrow().toString()).startsWith("2026-11-28T06:00:00.123");
            assertThat(rows.get(1).getCellText(3)).isEqualTo("1234567890123456.7890");
            assertThat(rows.get(1).getCellText(7)).isEqualTo("=1+1, \"ä\"\n");
            assertThat(rows.get(2).getCellText(0)).isEqualTo("-9223372036854775808");
        }
    }

    /** Read by another library (Apache POI), as a spreadsheet program reads it. */
    @Test
    void whatNoCellHoldsIsWrittenAsOtherProgramsReadItOrSaidInTheCell() throws IOException {
        String face = "\uD83D\uDE00";
        String letters = new Random(3)
                .ints(20_000, 0, 16)
                .mapToObj(each -> "0123456789abcdef".charAt(each) + face)
                .collect(Collectors.joining());
        byte[] bytes = write(
                FileFormat.WORKBOOK,
                columns("note"),
                List.of(
                        List.of("a\u0000b\u0001_x0041_\r\n" + face),
                        List.of(letters.substring(0, 32_767)),
                        List.of(letters),
                        List.of("")));
        try (XSSFWorkbook workbook = new XSSFWorkbook(new ByteArrayInputStream(bytes))) {
            XSSFSheet sheet = workbook.getSheetAt(0);
            assertThat(sheet.getRow(1).getCell(0).getStringCellValue()).isEqualTo("a\u0000b\u0001_x0041_\r\n" + face);
            assertThat(sheet.getRow(2).getCell(0).getStringCellValue()).hasSize(32_767);
            assertThat(sheet.getRow(3).getCell(0).getStringCellValue())
                    .hasSizeBetween(32_766, 32_767)
                    .startsWith(letters.substring(0, 32_600))
                    .endsWith("… [cut: it has 60000 letters, and a cell of a workbook holds 32767]");
        }
    }

    /** A Parquet file as its columns' types and its rows. */
    private record Parquet(MessageType schema, List<Map<String, Object>> rows) {}

    private Parquet parquet(byte[] bytes) throws IOException {
        Path file = Files.write(folder.resolve("read.parquet"), bytes);
        List<Map<String, Object>> rows = new ArrayList<>();
        try (Stream<Map<String, Object>> read = ParquetReader.streamContent(
                file.toFile(), HydratorSupplier.constantly(new Hydrator<Map<String, Object>, Map<String, Object>>() {
                    @Override
                    public Map<String, Object> start() {
                        return new LinkedHashMap<>();
                    }

                    @Override
                    public Map<String, Object> add(Map<String, Object> row, String name, Object value) {
                        row.put(name, value);
                        return row;
                    }

                    @Override
                    public Map<String, Object> finish(Map<String, Object> row) {
                        return row;
                    }
                }))) {
            read.forEach(rows::add);
        }
        return new Parquet(
                ParquetReader.readMetadata(file.toFile()).getFileMetaData().getSchema(), rows);
    }

    @Test
    void parquetHasTypesThatHoldEveryCell() throws IOException {
        Parquet read = parquet(write(FileFormat.PARQUET, COLUMNS, ROWS));
        assertThat(read.rows()).hasSize(2);
        Map<String, Object> first = read.rows().get(0);
        assertThat(first).containsEntry("id", 1L).containsEntry("kWh", 0.1).containsEntry("yes", true);
        assertThat(first.get("at")).isEqualTo(TIME.getEpochSecond() * 1_000_000 + TIME.getNano() / 1000);
        assertThat(first).containsEntry("a \"text\"", "=1+1, \"ä\"\n");
        assertThat(read.schema().toString())
                .contains("int64 at (TIMESTAMP(MICROS,true))")
                .contains("exact (DECIMAL(38,4))")
                .contains("large (DECIMAL(38,0))")
                .contains("day (DATE)")
                .contains("clock (TIME(MICROS");
        assertThat(read.rows().get(1)).containsEntry("id", Long.MIN_VALUE);
        assertThat(read.rows().get(1).get("kWh")).isNull();
    }

    /** As of a database whose cells are of any type. */
    @Test
    void aColumnOfManySortsIsWidenedAsTheyCome() throws IOException {
        List<List<Object>> rows = new ArrayList<>();
        for (int i = 0; i < 50_000; i++) {
            rows.add(Arrays.asList(
                    (long) i,
                    null,
                    i < 30_000 ? (Object) (long) i : (Object) (i + 0.5),
                    i < 30_000 ? (Object) (long) i : "word " + i,
                    i < 40_000 ? new BigDecimal("1.25") : new BigDecimal("1.125")));
        }
        Parquet read = parquet(write(FileFormat.PARQUET, columns("i", "nothing", "mixed", "worded", "finer"), rows));
        assertThat(read.rows()).hasSize(50_000);
        assertThat(read.rows().get(29_999)).containsEntry("mixed", 29_999.0).containsEntry("worded", "29999");
        assertThat(read.rows().get(30_001)).containsEntry("mixed", 30_001.5).containsEntry("worded", "word 30001");
        assertThat(read.schema().toString()).contains("finer (DECIMAL(38,3))");
    }

    @Test
    void oneFileIsMadeAtATimeAndWhoGivesUpLeavesNothing() throws IOException {
        try (HeavyParquet first = heavy.parquet(List.of("a"))) {
            first.row(List.of(1L));
            assertThatThrownBy(() -> heavy.parquet(List.of("b")))
                    .isInstanceOf(Heavy.Unable.class)
                    .hasMessageContaining("does one at a time");
        }
        assertThat(parquet(write(FileFormat.PARQUET, columns("a"), List.of(List.of(2L))))
                        .rows())
                .hasSize(1);
        // The second process tells that a file is whole before it puts its own things away.
        await().atMost(Duration.ofSeconds(60)).untilAsserted(() -> {
            try (Stream<Path> left = Files.list(folder.resolve("heavy"))) {
                assertThat(left.map(each -> each.getFileName().toString())).containsExactly("last-words.log");
            }
        });
    }

    /** A reader of a file that is whole may be as slow as they like. */
    @Test
    void theNextIsMadeWhileTheLastIsTaken() throws IOException {
        try (HeavyParquet first = heavy.parquet(List.of("a"))) {
            first.row(List.of(1L));
            Path file = first.finish();
            assertThat(parquet(write(FileFormat.PARQUET, columns("a"), List.of(List.of(2L), List.of(3L))))
                            .rows())
                    .hasSize(2);
            assertThat(file).isNotEmptyFile();
        }
        assertThat(parquet(write(FileFormat.PARQUET, columns("a"), List.of(List.of(2L))))
                        .rows())
                .hasSize(1);
    }

    /** The application died in the middle: nothing of it stays. */
    @Test
    void whatAKilledApplicationLeftIsGoneAtTheNextStart() throws IOException {
        Path left = folder.resolve("heavy").resolve("work123");
        Files.createDirectories(left);
        Files.writeString(left.resolve("spilled"), "x");
        Files.writeString(folder.resolve("heavy").resolve("1.parquet"), "PAR1");
        Heavy next =
                new Heavy(folder.resolve("heavy"), new Heavy.Limits(1, Duration.ofSeconds(1), Duration.ofMillis(1)));
        assertThat(folder.resolve("heavy")).isEmptyDirectory();
        next.close();
    }

    /** Killed in the middle, as a native crash would: a sentence, and the next file is made. */
    @Test
    void aSecondProcessThatDiesIsASentenceAndTheNextBeginsAnew() throws IOException {
        try (HeavyParquet parquet = heavy.parquet(List.of("a"))) {
            parquet.row(List.of(1L));
            ProcessHandle.of(parquet.pid()).orElseThrow().destroyForcibly();
            assertThatThrownBy(() -> {
                        for (int i = 0; i < 10_000_000; i++) {
                            parquet.row(List.of(1L));
                        }
                        parquet.finish();
                    })
                    .isInstanceOf(Heavy.Unable.class)
                    .hasMessageContaining("could not go on")
                    .hasMessageContaining("Recording is not touched");
        }
        assertThat(parquet(write(FileFormat.PARQUET, columns("a"), List.of(List.of(2L))))
                        .rows())
                .hasSize(1);
    }

    @Test
    void oneThatTakesTooMuchMemoryIsKilledAtItsLimit() throws IOException {
        heavy.close();
        heavy = new Heavy(folder.resolve("small"), new Heavy.Limits(20_000_000L, PATIENT, Duration.ofMillis(200)));
        exports = new Exports(heavy);
        assertThatThrownBy(() -> {
                    try (HeavyParquet parquet = heavy.parquet(List.of("a"))) {
                        while (true) {
                            parquet.row(List.of("a text"));
                        }
                    }
                })
                .isInstanceOf(Heavy.Unable.class)
                .hasMessageContaining("more than 20 MB of memory");
    }

    /** Stopped, so that it answers nothing: broken off at the limit of time. */
    @Test
    void oneThatHangsIsKilledAtItsLimit() throws Exception {
        heavy.close();
        heavy = new Heavy(
                folder.resolve("hangs"), new Heavy.Limits(900_000_000L, Duration.ofSeconds(2), Duration.ofMillis(200)));
        try (HeavyParquet parquet = heavy.parquet(List.of("a"))) {
            parquet.row(List.of(1L));
            new ProcessBuilder("kill", "-STOP", Long.toString(parquet.pid()))
                    .start()
                    .waitFor();
            assertThatThrownBy(parquet::finish)
                    .isInstanceOf(Heavy.Unable.class)
                    .hasMessageContaining("2 s at one step");
        }
    }
}
