package dachshund.links.jdbc;

import static dachshund.links.jdbc.Beds.ZONE;
import static dachshund.links.jdbc.Beds.make;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowable;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.links.jdbc.Beds.Bed;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** The same queries asked of the real engines give the same rows, and none of them can write. */
class QueriesTest {

    @TempDir
    static Path folder;

    private static Beds beds;

    @BeforeAll
    static void start() throws Exception {
        beds = new Beds(folder);
    }

    @AfterAll
    static void stop() {
        beds.close();
    }

    static Stream<Bed> engines() {
        return beds.all();
    }

    /** What came, with the columns in front. */
    private record Answer(List<TableShape.Column> columns, List<List<Object>> rows) {}

    private static Answer ask(Bed bed, long most, String sql, Object... values) throws Exception {
        Answer answer = new Answer(new ArrayList<>(), new ArrayList<>());
        String own = bed.schema().isEmpty() ? sql : sql.replace("{lot}", "\"" + bed.schema() + "\".lot");
        own = own.replace("\"laboratory\".lot", "laboratory.lot").replace("{lot}", "lot");
        bed.reading().ask(QueryText.of(own), List.of(values), Duration.ofSeconds(20), most, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                answer.columns().addAll(columns);
            }

            @Override
            public boolean row(List<Object> cells) {
                answer.rows().add(new ArrayList<>(cells));
                return true;
            }
        });
        return answer;
    }

    @ParameterizedTest
    @MethodSource("engines")
    void aWindowAndAValueAreBoundAndColumnsOfOneNameAreToldApart(Bed bed) throws Exception {
        Answer answer = ask(
                bed,
                Long.MAX_VALUE,
                "SELECT lot_no, made, weight, weight FROM {lot} WHERE made >= :from AND made < :to AND weight >= :least AND note <> :no ORDER BY lot_no",
                Instant.parse("2026-10-21T00:00:00Z"),
                Instant.parse("2026-10-21T02:00:00Z"),
                new BigDecimal("145.5"),
                "it's \"none\" :of them");
        // Lots 144 to 155 lie in it; of these 147 and 154 have no note.
        assertThat(answer.rows())
                .extracting(row -> row.get(0))
                .containsExactly(146L, 148L, 149L, 150L, 151L, 152L, 153L, 155L);
        assertThat(answer.rows().get(0).get(2)).isEqualTo(146.0);
        assertThat(answer.columns())
                .extracting(TableShape.Column::name)
                .containsExactly("lot_no", "made", "weight", "weight_2");
        assertThat(answer.columns().get(0).sort()).isEqualTo(Sort.NUMBER);
    }

    @ParameterizedTest
    @MethodSource("engines")
    void groupedRowsAreThoseOfASeparateClient(Bed bed) throws Exception {
        String sql =
                "SELECT day, COUNT(*) AS lots, SUM(weight) AS weight FROM {lot} WHERE day < :until GROUP BY day ORDER BY day";
        Answer answer = ask(bed, Long.MAX_VALUE, sql, LocalDate.of(2026, 10, 25));
        List<String> theirs = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url("laboratory"));
                Statement statement = connection.createStatement();
                ResultSet rows =
                        statement.executeQuery(sql.replace("{lot}", "lot").replace(":until", "'2026-10-25'"))) {
            while (rows.next()) {
                theirs.add(rows.getString(1) + " " + rows.getLong(2) + " " + rows.getLong(3));
            }
        }
        assertThat(theirs).hasSize(5);
        assertThat(answer.rows())
                .extracting(row -> row.get(0) + " " + row.get(1) + " " + ((Number) row.get(2)).longValue())
                .isEqualTo(theirs);
    }

    @ParameterizedTest
    @MethodSource("engines")
    void asManyRowsAsAreWantedAndTheConnectionIsGoodAfterwards(Bed bed) throws Exception {
        for (int i = 0; i < 20; i++) {
            assertThat(ask(bed, 3, "SELECT lot_no FROM {lot} ORDER BY lot_no").rows())
                    .containsExactly(List.of(0L), List.of(1L), List.of(2L));
        }
    }

    /** Before its first row, where it would take an hour; the connection is good afterwards. */
    @ParameterizedTest
    @MethodSource("engines")
    @Timeout(120)
    void aQueryIsBrokenOffFromAnotherThread(Bed bed) throws Exception {
        String slow =
                switch (bed.engine()) {
                    case "MariaDB" -> "SELECT SLEEP(3000)";
                    case "PostgreSQL" -> "SELECT pg_sleep(3000)";
                    default ->
                        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n WHERE i < 0";
                };
        for (int round = 0; round < 3; round++) {
            Throwable broken = catchThrowable(() -> bed.reading()
                    .ask(QueryText.of(slow), List.of(), Duration.ofHours(1), 10, new TableReading.Taker() {
                        @Override
                        public void running(Runnable breakOff) {
                            Thread thread = new Thread(() -> {
                                try {
                                    Thread.sleep(300);
                                } catch (InterruptedException interrupted) {
                                    return;
                                }
                                breakOff.run();
                            });
                            thread.start();
                        }

                        @Override
                        public void columns(List<TableShape.Column> columns) {
                            // none come in time
                        }

                        @Override
                        public boolean row(List<Object> cells) {
                            return true;
                        }
                    }));
            // MariaDB answers SLEEP that is killed with a row.
            assertThat(broken == null || broken instanceof StoreProblem || broken instanceof QueryProblem)
                    .as(String.valueOf(broken))
                    .isTrue();
            assertThat(ask(bed, 3, "SELECT lot_no FROM {lot} ORDER BY lot_no").rows())
                    .hasSize(3);
        }
    }

    /** The engine's own words, and where. */
    @ParameterizedTest
    @MethodSource("engines")
    void aMistakeIsToldAtItsPlace(Bed bed) throws Exception {
        for (String[] each : new String[][] {
            {"SELECT lot_no, nosuch\nFROM {lot} WHERE weight > :a", "nosuch"},
            {
                "SELECT lot_no FORM {lot} WHERE weight > :a",
                bed.engine().equals("PostgreSQL")
                        ? "\"Lab 1\""
                        : bed.engine().equals("SQLite") ? "lot" : "laboratory.lot"
            },
            {"SELECT lot_no FROM nowhere WHERE 1 = :a", "nowhere"},
        }) {
            QueryProblem problem =
                    catchThrowableOfType(QueryProblem.class, () -> ask(bed, 10, each[0], BigDecimal.ONE));
            assertThat(problem).as(bed + ": " + each[0]).isNotNull();
            String own = each[0].replace(
                    "{lot}",
                    bed.engine().equals("SQLite")
                            ? "lot"
                            : bed.engine().equals("MariaDB") ? "laboratory.lot" : "\"Lab 1\".lot");
            assertThat(own.substring(problem.from(), problem.to()))
                    .as(bed + ": " + problem.getMessage())
                    .isEqualTo(each[1]);
            assertThat(problem.getMessage()).doesNotContain("Position").endsWith(".");
        }
        // What it cannot compute is a sentence, and the next one is answered.
        assertThat(catchThrowable(() -> ask(bed, 10, "SELECT lot_no FROM {lot} WHERE :a = 'x' AND", "y")))
                .isNotNull();
        assertThat(ask(bed, 1, "SELECT 1").rows()).hasSize(1);
    }

    @ParameterizedTest
    @MethodSource("engines")
    void whatTakesTooLongIsBrokenOffAndSaid(Bed bed) {
        StoreProblem problem = catchThrowableOfType(StoreProblem.class, () -> bed.reading()
                .ask(
                        QueryText.of("SELECT COUNT(*) FROM " + table(bed) + " a, " + table(bed) + " b, " + table(bed)
                                + " c WHERE a.weight + b.weight + c.weight > 5000"),
                        List.of(),
                        Duration.ofSeconds(1),
                        10,
                        new Nothing()));
        assertThat(problem.getMessage()).contains("broken off");
    }

    /** Broken off from here it may be lost on its way; the server's own limit cannot be. It holds for the one statement alone. */
    @Test
    void aServerThatCanKeepsTheLimitItself() throws Exception {
        Bed bed = beds.all()
                .filter(each -> each.engine().equals("PostgreSQL"))
                .findFirst()
                .orElseThrow();
        String asks = "SELECT current_setting('statement_timeout') AS most";
        assertThat(ask(bed, 10, asks).rows()).containsExactly(List.of("20s"));
        Throwable broken = catchThrowableOfType(StoreProblem.class, () -> bed.reading()
                .ask(QueryText.of("SELECT pg_sleep(5)"), List.of(), Duration.ofMillis(50), 10, new Nothing()));
        assertThat(broken).hasMessageContaining("broken off");
        assertThat(ask(bed, 10, asks).rows()).containsExactly(List.of("20s"));
    }

    private static String table(Bed bed) {
        return bed.engine().equals("PostgreSQL") ? "\"Lab 1\".lot" : "lot";
    }

    private static final class Nothing implements TableReading.Taker {
        @Override
        public void columns(List<TableShape.Column> columns) {
            // not looked at
        }

        @Override
        public boolean row(List<Object> cells) {
            return true;
        }
    }

    /** By an account that may do everything: what reads by its first word and writes all the same. */
    @Test
    void nothingIsWrittenWhateverTheAccountMayDo() throws Exception {
        try (Connection maria = DriverManager.getConnection(beds.mariaDb.url("laboratory"));
                Connection postgre = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
            make(
                    maria,
                    "CREATE TABLE counted (n INT)",
                    "CREATE SEQUENCE numbers",
                    "CREATE FUNCTION counts() RETURNS INT MODIFIES SQL DATA BEGIN INSERT INTO counted VALUES (1); RETURN 1; END",
                    "CREATE USER writer@'127.0.0.1' IDENTIFIED BY 'writes'",
                    "GRANT ALL PRIVILEGES ON *.* TO writer@'127.0.0.1'");
            make(
                    postgre,
                    "CREATE TABLE public.counted (n INT)",
                    "CREATE SEQUENCE public.numbers",
                    "CREATE FUNCTION public.counts() RETURNS INT LANGUAGE sql AS 'INSERT INTO public.counted VALUES (1) RETURNING 1'",
                    "CREATE USER writer SUPERUSER PASSWORD 'writes'");
        }
        var server =
                java.util.Map.of("host", "127.0.0.1", "database", "laboratory", "user", "writer", "password", "writes");
        List<String> told = new ArrayList<>();
        try (TableReading maria = Beds.tables(
                        dachshund.links.mariadb.MariaDbEngine.mariaDb(),
                        Beds.with(server, beds.mariaDb.port()),
                        ZONE,
                        dachshund.core.reach.Outside.ANYWHERE);
                TableReading postgre = Beds.tables(
                        dachshund.links.postgresql.PostgreSqlEngine.kind(),
                        Beds.with(server, beds.postgreSql.port()),
                        ZONE,
                        dachshund.core.reach.Outside.ANYWHERE)) {
            for (String sql : List.of(
                    "SELECT counts()",
                    "SELECT NEXTVAL(numbers)",
                    "SELECT lot_no INTO @a FROM lot LIMIT 1",
                    "SELECT * FROM lot PROCEDURE ANALYSE()",
                    "WITH a AS (SELECT 1) DELETE FROM lot",
                    "EXPLAIN DELETE FROM lot",
                    "SHOW TABLES")) {
                told.add(tried(maria, sql));
            }
            for (String sql : List.of(
                    "SELECT public.counts()",
                    "SELECT nextval('public.numbers')",
                    "SELECT * INTO public.other FROM \"Lab 1\".lot",
                    "WITH gone AS (DELETE FROM \"Lab 1\".lot RETURNING lot_no) SELECT * FROM gone",
                    "EXPLAIN ANALYZE DELETE FROM \"Lab 1\".lot",
                    "SELECT set_config('transaction_read_only', 'off', false)",
                    "SELECT set_config('default_transaction_read_only', 'off', false)",
                    "SELECT public.counts()")) {
                told.add(tried(postgre, sql));
            }
        }
        try (Connection maria = DriverManager.getConnection(beds.mariaDb.url("laboratory"));
                Connection postgre = DriverManager.getConnection(beds.postgreSql.url("laboratory"))) {
            assertThat(one(maria, "SELECT COUNT(*) FROM counted")).isZero();
            assertThat(one(maria, "SELECT COUNT(*) FROM lot")).isEqualTo(5000);
            assertThat(one(maria, "SELECT next_not_cached_value FROM numbers")).isEqualTo(1);
            assertThat(one(postgre, "SELECT COUNT(*) FROM public.counted")).isZero();
            assertThat(one(postgre, "SELECT COUNT(*) FROM \"Lab 1\".lot")).isEqualTo(5000);
            assertThat(one(postgre, "SELECT COUNT(*) FROM pg_tables WHERE tablename = 'other'"))
                    .isZero();
            assertThat(one(postgre, "SELECT last_value FROM public.numbers WHERE NOT is_called"))
                    .isEqualTo(1);
        }
        assertThat(told)
                .allMatch(each -> each.endsWith(".")
                        || each.matches("answered: .*(SHOW|EXPLAIN D|set_config|ANALYSE|INTO @a).*"));
    }

    /** What one way of reading a text takes for a text or comment, this engine carries out. */
    @Test
    void whatWritesFilesOrLocksRowsIsFoundAsTheEngineReadsIt() throws Exception {
        try (TableReading maria = ofEverything()) {
            for (String sql : List.of(
                    "SELECT 1--1 INTO OUTFILE 'hidden-1'",
                    "SELECT lot_no FROM lot WHERE 1--1 FOR UPDATE",
                    "SELECT \"\\\"\" INTO OUTFILE \"hidden-2\" LINES TERMINATED BY \"\\\"\"",
                    "SELECT lot_no FROM lot # '\n FOR UPDATE # '",
                    "SELECT lot_no FROM lot FOR/* */UPDATE",
                    "SELECT 1 # '\n INTO DUMPFILE 'hidden-3' # '",
                    "SELECT 1 # '\n /*!50000 INTO OUTFILE 'hidden-4' */ # '")) {
                assertThat(tried(maria, sql)).as(sql).doesNotContain("answered").endsWith(".");
            }
            assertThat(tried(maria, "SELECT 'FOR UPDATE', \"INTO OUTFILE\", `lot_no` -- FOR UPDATE\n FROM lot LIMIT 1"))
                    .startsWith("answered");
        }
        try (Connection maria = DriverManager.getConnection(beds.mariaDb.url("laboratory"))) {
            assertThat(one(maria, "SELECT LOAD_FILE(CONCAT(@@datadir, 'laboratory/hidden-1')) IS NULL"))
                    .isEqualTo(1);
        }
    }

    private static TableReading ofEverything() throws Exception {
        try (Connection maria = DriverManager.getConnection(beds.mariaDb.url(""))) {
            make(
                    maria,
                    "CREATE USER IF NOT EXISTS everything@'127.0.0.1' IDENTIFIED BY 'writes'",
                    "GRANT ALL PRIVILEGES ON *.* TO everything@'127.0.0.1'");
        }
        return Beds.tables(
                dachshund.links.mariadb.MariaDbEngine.mariaDb(),
                Beds.with(
                        java.util.Map.of(
                                "host",
                                "127.0.0.1",
                                "database",
                                "laboratory",
                                "user",
                                "everything",
                                "password",
                                "writes"),
                        beds.mariaDb.port()),
                ZONE,
                dachshund.core.reach.Outside.ANYWHERE);
    }

    private static String tried(TableReading reading, String sql) {
        Throwable refused = catchThrowable(
                () -> reading.ask(QueryText.of(sql), List.of(), Duration.ofSeconds(5), 10, new Nothing()));
        return refused == null ? "answered: " + sql : refused.getMessage();
    }

    private static long one(Connection connection, String sql) throws Exception {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }
}
