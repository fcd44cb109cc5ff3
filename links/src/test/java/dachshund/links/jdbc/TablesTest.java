package dachshund.links.jdbc;

import static dachshund.links.jdbc.Beds.ZONE;
import static dachshund.links.jdbc.Beds.make;
import static dachshund.links.jdbc.Beds.tables;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.awaitility.Awaitility.await;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reach.Outside;
import dachshund.core.reader.FoundTable;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.reader.TimeColumn.Form;
import dachshund.links.jdbc.Beds.Bed;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Tables that others made, read on the real engines by an account that may read alone. */
class TablesTest {

    @TempDir
    static Path folder;

    private static Beds beds;

    static Stream<Bed> engines() {
        return beds.all();
    }

    @BeforeAll
    static void start() throws Exception {
        beds = new Beds(folder);
    }

    @AfterAll
    static void stop() {
        beds.close();
    }

    private static List<List<Object>> rows(TableReading reading, Question question) throws StoreProblem {
        List<List<Object>> rows = new ArrayList<>();
        reading.read(question, TableReading.WHOLE, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {}

            @Override
            public boolean row(List<Object> cells) {
                return rows.add(new ArrayList<>(cells));
            }
        });
        return rows;
    }

    @ParameterizedTest
    @MethodSource("engines")
    void whatAnAccountMaySeeIsListedWithColumnsAndKeys(Bed bed) throws StoreProblem {
        List<FoundTable> tables = bed.reading().tables();
        assertThat(tables)
                .extracting(FoundTable::name)
                .containsExactly(bed.name("analysis"), bed.name("heavy"), bed.name("lot"));
        assertThat(tables).extracting(FoundTable::view).containsExactly(false, true, false);
        if (!bed.engine().equals("SQLite")) {
            assertThat(tables.get(2).rows().orElseThrow()).isBetween(4000L, 6000L);
        }
        TableShape lot = bed.reading().describe(bed.name("lot")).orElseThrow();
        assertThat(lot.columns())
                .extracting(TableShape.Column::sort)
                .containsExactly(
                        Sort.NUMBER,
                        Sort.STAMP,
                        Sort.NUMBER,
                        Sort.NUMBER,
                        Sort.TEXT,
                        Sort.NUMBER,
                        Sort.NUMBER,
                        Sort.DATE,
                        Sort.TEXT);
        assertThat(lot.keys()).containsExactly(new TableShape.Key(List.of("lot_no"), true, Optional.empty()));
        assertThat(bed.reading().describe(bed.name("analysis")).orElseThrow().keys())
                .contains(new TableShape.Key(List.of("lot_no"), false, Optional.of(bed.name("lot"))));
        assertThat(bed.reading().describe(bed.name("l_t"))).isEmpty();
        assertThat(bed.reading().mayWrite()).isEmpty();
    }

    @ParameterizedTest
    @MethodSource("engines")
    void rowsAreTheSameOnEveryEngine(Bed bed) throws StoreProblem {
        List<List<Object>> rows =
                rows(bed.reading(), Question.all(bed.name("lot")).by("lot_no", false));
        assertThat(rows).hasSize(5000);
        assertThat(rows.get(701)).satisfies(row -> {
            assertThat(((Number) row.get(0)).longValue()).isEqualTo(701);
            assertThat(row.get(1)).isEqualTo(Instant.parse("2026-10-24T20:50:00Z"));
            assertThat(row.get(5)).isEqualTo(701.0);
            assertThat(row.get(7)).isEqualTo(LocalDate.parse("2026-10-24"));
            assertThat(row.get(8)).isEqualTo("Lot \"701\", ä");
        });
        if (!bed.engine().equals("SQLite")) { // which keeps 8 bytes of it
            assertThat(rows.get(701).get(6)).isEqualTo(new BigDecimal("1234567890123456.7891"));
        }
        assertThat(rows.get(700).get(8)).isNull();
        assertThat(rows(
                        bed.reading(),
                        Question.all(bed.name("lot")).by("lot_no", true).part(10, 3)))
                .extracting(row -> ((Number) row.get(0)).intValue())
                .containsExactly(4989, 4988, 4987);
        assertThat(rows(
                        bed.reading(),
                        Question.all(bed.name("heavy")).of(List.of("weight")).by("lot_no", false)))
                .hasSize(495)
                .allSatisfy(row -> assertThat(row).hasSize(1));
    }

    /** A day of 25 hours has 150 lots, whichever way its times are written; a clock that was set back cannot tell an hour of them. */
    @ParameterizedTest
    @MethodSource("engines")
    void aTimeIsTheSameHoweverItIsWritten(Bed bed) throws StoreProblem {
        Instant from = Instant.parse("2026-10-24T22:00:00Z");
        Instant to = Instant.parse("2026-10-25T23:00:00Z");
        Question lots = Question.all(bed.name("lot")).of(List.of("lot_no")).by("lot_no", false);
        for (TimeColumn time : List.of(
                new TimeColumn("seconds", Form.SECONDS),
                new TimeColumn("millis", Form.MILLIS),
                new TimeColumn("written", Form.TEXT))) {
            List<List<Object>> rows = rows(bed.reading(), lots.within(time, from, to));
            assertThat(rows).as(time.toString()).hasSize(150);
            assertThat(((Number) rows.get(0).get(0)).intValue()).isEqualTo(708);
            assertThat(((Number) rows.get(149).get(0)).intValue()).isEqualTo(857);
        }
        TimeColumn stamp = new TimeColumn("made", Form.STAMP);
        // 02:00 to 03:00 was there twice: twelve lots are at the first of the two or in no time that can be told.
        assertThat(rows(bed.reading(), lots.within(stamp, from, to)).size()).isIn(150, 138);
        assertThat(rows(bed.reading(), lots.within(stamp, Instant.parse("2026-10-25T01:00:00Z"), to))
                        .size())
                .isIn(132, 126);
        assertThat(rows(bed.reading(), lots.within(stamp, from, from.plusSeconds(7200))))
                .hasSize(12);
        assertThat(rows(bed.reading(), lots.within(new TimeColumn("day", Form.STAMP), from, to)))
                .hasSize(150);
        assertThat(rows(bed.reading(), lots.within(stamp, to, from))).isEmpty();
    }

    @ParameterizedTest
    @MethodSource("engines")
    void rowsOfOneThingAreReadOfATableOfMany(Bed bed) throws StoreProblem {
        Question lots = Question.all(bed.name("lot")).of(List.of("weight")).by("lot_no", false);
        assertThat(rows(bed.reading(), lots.where("note", "Lot \"701\", ä"))).containsExactly(List.of(701.0));
        assertThat(rows(bed.reading(), lots.where("note", "lot \"701\", Ä"))).isEmpty();
        assertThat(rows(bed.reading(), lots.where("lot_no", "1702"))).containsExactly(List.of(702.0));
        assertThat(rows(bed.reading(), lots.where("lot_no", "x"))).isEmpty();
        assertThat(rows(bed.reading(), lots.where("lot_no", "' OR ''='"))).isEmpty();
        assertThat(rows(bed.reading(), lots.where("weight", "17"))).hasSize(5);
        assertThat(rows(bed.reading(), lots.where("day", "2026-10-24"))).hasSize(144);
        Instant from = Instant.parse("2026-10-24T20:50:00Z");
        Question around = lots.within(new TimeColumn("millis", Form.MILLIS), from, from.plusSeconds(600));
        assertThat(rows(bed.reading(), around.where("weight", "701"))).containsExactly(List.of(701.0));
        assertThat(rows(bed.reading(), around.where("weight", "702"))).isEmpty();
        assertThat(rows(bed.reading(), lots.where("weight", "17").part(1, 2))).hasSize(2);
        assertThat(catchThrowableOfType(StoreProblem.class, () -> rows(bed.reading(), lots.where("tag", "17"))))
                .hasMessageContaining("has no column tag");
    }

    /** A week of two hundred tags in one table is not sent for the sake of one of them. */
    @Test
    void theDatabaseSendsWhatIsWanted() throws Exception {
        Question lots = Question.all(new TableName("laboratory", "lot")).of(List.of("weight"));
        Bed bed = beds.all().toList().get(0);
        rows(bed.reading(), lots.part(0, 1));
        long before = sent();
        assertThat(rows(bed.reading(), lots.where("note", "Lot \"701\", ä"))).hasSize(1);
        assertThat(rows(bed.reading(), lots.where("lot_no", "1702"))).hasSize(1);
        assertThat(sent() - before).isLessThan(200);
    }

    private static long sent() throws Exception {
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""));
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery("SHOW GLOBAL STATUS LIKE 'Rows_sent'")) {
            rows.next();
            return rows.getLong(2);
        }
    }

    /** Names in types that are compared in ways of their own: filled up with blanks, in letters that a column lacks, without case. */
    @Test
    void namesAreFoundInColumnsOfAnyType() throws Exception {
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
            make(
                    connection,
                    "USE laboratory",
                    "CREATE TABLE named (a CHAR(8), b VARCHAR(8) CHARACTER SET latin1, c ENUM('PL1', 'pl1') COLLATE utf8mb4_bin, d UUID, v INT)",
                    "INSERT INTO named VALUES ('PL1', 'Öl', 'PL1', '00000000-0000-0000-0000-000000000001', 1), ('pl1', 'öl', 'pl1', NULL, 2)");
        }
        try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
            make(
                    connection,
                    "CREATE TYPE \"Lab 1\".context AS ENUM ('PL1', 'pl1')",
                    "CREATE TABLE \"Lab 1\".named (a CHAR(8), b VARCHAR(8), c \"Lab 1\".context, d UUID, v INT)",
                    "INSERT INTO \"Lab 1\".named VALUES ('PL1', 'Öl', 'PL1', '00000000-0000-0000-0000-000000000001', 1), ('pl1', 'öl', 'pl1', NULL, 2)",
                    "GRANT SELECT ON \"Lab 1\".named TO reader");
        }
        try {
            for (Bed bed : beds.all().toList().subList(0, 2)) {
                Question all = Question.all(bed.name("named")).of(List.of("v"));
                assertThat(rows(bed.reading(), all.where("a", "PL1"))).containsExactly(List.of(1L));
                assertThat(rows(bed.reading(), all.where("b", "Öl"))).containsExactly(List.of(1L));
                assertThat(rows(bed.reading(), all.where("b", "Ωl"))).isEmpty();
                assertThat(rows(bed.reading(), all.where("c", "pl1"))).containsExactly(List.of(2L));
                assertThat(rows(bed.reading(), all.where("d", "00000000-0000-0000-0000-000000000001")))
                        .containsExactly(List.of(1L));
                assertThat(rows(bed.reading(), all.where("d", "none"))).isEmpty();
            }
        } finally {
            try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
                make(connection, "DROP TABLE laboratory.named");
            }
            try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
                make(connection, "DROP TABLE \"Lab 1\".named", "DROP TYPE \"Lab 1\".context");
            }
        }
    }

    @ParameterizedTest
    @MethodSource("engines")
    void whoHasEnoughReadsNoFurtherAndTheConnectionServesTheNext(Bed bed) throws StoreProblem {
        for (int i = 0; i < 20; i++) {
            List<Object> first = new ArrayList<>();
            TableReading.Read read = bed.reading()
                    .read(Question.all(bed.name("lot")), TableReading.WHOLE, new TableReading.Taker() {
                        @Override
                        public void columns(List<TableShape.Column> columns) {}

                        @Override
                        public boolean row(List<Object> cells) {
                            first.add(cells.get(0));
                            return false;
                        }
                    });
            assertThat(first).hasSize(1);
            assertThat(read.rows()).isEqualTo(1);
        }
        assertThat(rows(bed.reading(), Question.all(bed.name("lot")))).hasSize(5000);
    }

    @ParameterizedTest
    @MethodSource("engines")
    void whatIsNotThereIsASentence(Bed bed) throws StoreProblem {
        assertThat(catchThrowableOfType(StoreProblem.class, () -> rows(bed.reading(), Question.all(bed.name("no")))))
                .hasMessageContaining("no table or view")
                .extracting(StoreProblem::kind)
                .isEqualTo(StoreProblem.Kind.TABLE);
        assertThat(catchThrowableOfType(
                        StoreProblem.class,
                        () -> rows(bed.reading(), Question.all(bed.name("lot")).by("lot\"; DROP TABLE lot", true))))
                .hasMessageContaining("has no column");
        assertThat(rows(bed.reading(), Question.all(bed.name("lot")))).hasSize(5000);
        // A taker that fails is its own trouble.
        assertThat(catchThrowableOfType(IllegalStateException.class, () -> bed.reading()
                        .read(Question.all(bed.name("lot")), TableReading.WHOLE, new TableReading.Taker() {
                            @Override
                            public void columns(List<TableShape.Column> columns) {}

                            @Override
                            public boolean row(List<Object> cells) {
                                throw new IllegalStateException("Gone.");
                            }
                        })))
                .hasMessage("Gone.");
        assertThat(rows(bed.reading(), Question.all(bed.name("lot")))).hasSize(5000);
    }

    /** A view that somebody made without thinking of its readers. */
    @Test
    void whatTakesTooLongIsBrokenOffWithASentence() throws Exception {
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
            make(
                    connection,
                    "USE laboratory",
                    "CREATE VIEW slow AS SELECT COUNT(*) AS n FROM lot a, lot b, lot c WHERE a.weight + b.weight > c.weight");
        }
        try {
            Bed bed = beds.all().toList().get(0);
            assertThat(catchThrowableOfType(StoreProblem.class, () -> bed.reading()
                            .read(Question.all(bed.name("slow")), Duration.ofSeconds(1), new TableReading.Taker() {
                                @Override
                                public void columns(List<TableShape.Column> columns) {}

                                @Override
                                public boolean row(List<Object> cells) {
                                    return true;
                                }
                            })))
                    .hasMessageContaining("Reading took longer than 1 s");
            assertThat(rows(bed.reading(), Question.all(bed.name("lot")))).hasSize(5000);
        } finally {
            try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
                make(connection, "DROP VIEW laboratory.slow");
            }
        }
    }

    /** The server dies in the middle of a table: no reading that ends as if it were whole, and it goes on when it is back. */
    @Test
    void aServerThatDiesInTheMiddleIsASentenceAndIsReadAgainWhenItIsBack() throws Exception {
        try (PrivateMariaDb own = new PrivateMariaDb()) {
            try (Connection connection = DriverManager.getConnection(own.url(""))) {
                make(
                        connection,
                        "CREATE DATABASE laboratory",
                        "USE laboratory",
                        "CREATE TABLE many AS SELECT seq, REPEAT('x', 200) AS padding FROM seq_1_to_300000");
            }
            Map<String, String> settings = Map.of(
                    "host",
                    "127.0.0.1",
                    "port",
                    Integer.toString(own.port()),
                    "database",
                    "laboratory",
                    "user",
                    "root",
                    "password",
                    "");
            try (TableReading reading = tables(MariaDbEngine.mariaDb(), settings, ZONE, Outside.ANYWHERE)) {
                Question many = Question.all(new TableName("laboratory", "many"));
                long[] taken = {0};
                assertThat(catchThrowableOfType(
                                StoreProblem.class,
                                () -> reading.read(many, TableReading.WHOLE, new TableReading.Taker() {
                                    @Override
                                    public void columns(List<TableShape.Column> columns) {}

                                    @Override
                                    public boolean row(List<Object> cells) {
                                        if (++taken[0] == 100) {
                                            own.kill();
                                        }
                                        return true;
                                    }
                                })))
                        .extracting(StoreProblem::kind)
                        .isEqualTo(StoreProblem.Kind.AWAY);
                assertThat(taken[0]).isBetween(100L, 299_999L);
                assertThat(catchThrowableOfType(StoreProblem.class, reading::tables))
                        .isNotNull();
                own.start();
                await().ignoreException(StoreProblem.class)
                        .untilAsserted(
                                () -> assertThat(rows(reading, many.part(0, 5))).hasSize(5));
            }
        }
    }

    @Test
    void whatIsOddComesAsTheDatabasesOwnText() throws Exception {
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
            make(
                    connection,
                    "USE laboratory",
                    "SET sql_mode=''",
                    "CREATE TABLE odd (a BIGINT UNSIGNED, b FLOAT, c DATE, d TIME, e TIMESTAMP NULL, f VARBINARY(8), g YEAR, h BOOLEAN, i DATETIME)",
                    "INSERT INTO odd VALUES (18446744073709551615, 3.3, '0000-00-00', '838:59:59', '2026-11-28 06:00:00', x'00FF', 2026, 1, '0000-00-00 00:00:00')");
        }
        try {
            Bed bed = beds.all().toList().get(0);
            assertThat(rows(bed.reading(), Question.all(bed.name("odd"))).get(0))
                    .extracting(String::valueOf)
                    .containsExactly(
                            "18446744073709551615",
                            "3.3",
                            "0000-00-00",
                            "838:59:59",
                            "2026-11-28T06:00:00Z",
                            "0x00FF",
                            "2026",
                            "true",
                            "0000-00-00 00:00:00");
        } finally {
            try (Connection connection = DriverManager.getConnection(beds.mariaDb.url(""))) {
                make(connection, "DROP TABLE laboratory.odd");
            }
        }
        try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
            make(
                    connection,
                    "CREATE TABLE \"Lab 1\".odd (a NUMERIC, b REAL, c TIMESTAMPTZ, d TIMESTAMP, e UUID, f INTEGER[], g JSONB, h BYTEA, i TIME, j DOUBLE PRECISION, k INTERVAL)",
                    "INSERT INTO \"Lab 1\".odd VALUES ('NaN', 3.3, '2026-11-28 06:00:00+02', 'infinity', '00000000-0000-0000-0000-000000000001', '{1,2}', '{\"a\": 1}', '\\x00ff', '06:00', 'Infinity', '2 days')",
                    "GRANT SELECT ON \"Lab 1\".odd TO reader");
        }
        try {
            Bed bed = beds.all().toList().get(1);
            List<Object> row =
                    rows(bed.reading(), Question.all(bed.name("odd"))).get(0);
            assertThat(row)
                    .extracting(String::valueOf)
                    .containsExactly(
                            "NaN",
                            "3.3",
                            "2026-11-28T04:00:00Z",
                            "infinity",
                            "00000000-0000-0000-0000-000000000001",
                            "{1,2}",
                            "{\"a\": 1}",
                            "0x00FF",
                            "06:00",
                            "Infinity",
                            "2 days");
            assertThat(row.get(8)).isEqualTo(LocalTime.of(6, 0));
        } finally {
            try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
                make(connection, "DROP TABLE \"Lab 1\".odd");
            }
        }
    }

    @Test
    void anAccountThatMayWriteIsToldSoAndCannotAllTheSame() throws Exception {
        Map<String, String> root = Map.of(
                "host",
                "127.0.0.1",
                "port",
                Integer.toString(beds.postgreSql.port()),
                "database",
                "laboratory",
                "user",
                "postgres",
                "password",
                "");
        try (TableReading reading = tables(PostgreSqlEngine.kind(), root, ZONE, Outside.ANYWHERE)) {
            assertThat(reading.mayWrite()).hasValue("DELETE, INSERT, TRUNCATE, UPDATE");
            try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
                make(
                        connection,
                        "CREATE FUNCTION writes() RETURNS INTEGER LANGUAGE plpgsql AS 'BEGIN INSERT INTO \"Lab 1\".analysis VALUES (1, 1, 1); RETURN 1; END'",
                        "CREATE VIEW \"Lab 1\".sly AS SELECT writes() AS a");
            }
            assertThat(catchThrowableOfType(
                            StoreProblem.class, () -> rows(reading, Question.all(new TableName("Lab 1", "sly")))))
                    .hasMessageContaining("read-only transaction");
        } finally {
            try (Connection connection = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
                make(connection, "DROP VIEW \"Lab 1\".sly", "DROP FUNCTION writes()");
            }
        }
    }
}
