package dachshund.links.mariadb;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.standins.PrivateProcess;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.destination.TableDescription;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.MariaDbDialect;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The store and the dialect against a real MariaDB. */
class MariaDbStoreTest {

    private static final Instant TIME = Instant.parse("2026-10-25T00:30:00.123Z"); // 01:30 in London, the first of two that night
    private static PrivateMariaDb server;
    private static RowStore store;

    @BeforeAll
    static void start() throws Exception {
        server = new PrivateMariaDb();
        execute("CREATE DATABASE records");
        execute("CREATE USER recorder@'127.0.0.1' IDENTIFIED BY 'right'");
        execute("GRANT ALL ON records.* TO recorder@'127.0.0.1'");
        store = new MariaDbKind().open(settings(Map.of()));
    }

    @AfterAll
    static void stop() {
        store.close();
        server.close();
    }

    private static Map<String, String> settings(Map<String, String> other) {
        Map<String, String> settings = new HashMap<>(Map.of("host", "127.0.0.1", "port", Integer.toString(server.port()), "database", "records",
                "user", "recorder", "password", "right"));
        settings.putAll(other);
        return settings;
    }

    private static void execute(String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url("")); Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static Column constant(String name, SqlType type) {
        return Column.of(name, type, new ColumnSource.Constant("x"));
    }

    private static final Layout EVERY_TYPE = Layout.proposed().plus(constant("yes", SqlType.BOOLEAN)).plus(constant("small", SqlType.read("smallint")))
            .plus(constant("whole", SqlType.INTEGER)).plus(constant("big", SqlType.BIGINT)).plus(constant("exact", SqlType.decimal(20, 6)))
            .plus(constant("number", SqlType.DOUBLE)).plus(constant("words", SqlType.text(40))).plus(constant("fine", SqlType.timestamp(6)));

    private static RowId id(int n) {
        return new RowId("0a1b2c", "deadbeef", 7, n, 0);
    }

    private static Row everyType(int n) {
        return new Row(id(n), TIME, new Object[] {TIME, id(n).toString(), true, -32768L, Integer.MAX_VALUE + 0L, Long.MIN_VALUE,
                new BigDecimal("12345678901234.567891"), 0.1, "Späne 🐕 ' \" ` \\ \n", Instant.parse("2026-03-29T01:30:00.123456Z")});
    }

    private static Row nulls(int n) {
        return new Row(id(n), TIME, new Object[] {TIME, id(n).toString(), null, null, null, null, null, null, null, null});
    }

    private static RowBatch batch(String table, Layout layout, boolean mark, Row... rows) {
        return new RowBatch("deadbeef:dest", table, layout, mark, List.of(rows));
    }

    private static void make(String table, Layout layout) throws StoreProblem {
        store.apply(store.dialect().createTable(table, layout, false));
    }

    @Test
    void everyTypeAndNullComesBackAsItWentIn() throws Exception {
        make("every type", EVERY_TYPE);
        store.write(List.of(batch("every type", EVERY_TYPE, false, everyType(1), nulls(2), everyType(3))));
        store.write(List.of(batch("every type", EVERY_TYPE, false, everyType(4))));
        RowStore.TablePage page = store.lastRows("every type", EVERY_TYPE, 10);
        assertThat(page.rows()).hasSize(4);
        List<Object> row = page.rows().get(3);
        assertThat(row.subList(1, row.size())).usingRecursiveComparison().ignoringAllOverriddenEquals()
                .isEqualTo(List.of(TIME, id(1).toString(), true, (short) -32768, Integer.MAX_VALUE, Long.MIN_VALUE, new BigDecimal("12345678901234.567891"), 0.1,
                        "Späne 🐕 ' \" ` \\ \n", Instant.parse("2026-03-29T01:30:00.123456Z")));
        assertThat(page.rows().get(2).subList(3, row.size())).containsOnlyNulls();
        List<List<Object>> all = new ArrayList<>();
        store.readAll("every type", EVERY_TYPE, all::add);
        assertThat(all).hasSize(4).first().isEqualTo(row);
    }

    @Test
    void namesWithAnyCharactersWork() throws Exception {
        Layout layout = Layout.proposed();
        for (String name : List.of("inlet temp", "it's", "say \"hi\"", "back`tick", "select", "Ölstand °C", "a;b--c", "2026")) {
            layout = layout.plus(constant(name, SqlType.text(10)));
        }
        String table = "odd `name` ; drop table x";
        make(table, layout);
        Object[] cells = new Object[layout.written().size()];
        java.util.Arrays.fill(cells, "v");
        cells[0] = TIME;
        cells[1] = id(1).toString();
        store.write(List.of(batch(table, layout, false, new Row(id(1), TIME, cells))));
        assertThat(store.lastRows(table, layout, 1).columns()).hasSize(11).contains("back`tick", "select");
    }

    /** The reserved words of the dialect against the server's own: it is asked to make a column of each of its keywords. */
    @Test
    void reservedWordsAreThoseTheServerRefuses() throws Exception {
        List<String> wrong = new ArrayList<>();
        MariaDbDialect dialect = new MariaDbDialect();
        try (Connection connection = DriverManager.getConnection(server.url("records")); Statement statement = connection.createStatement()) {
            List<String> words = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery("SELECT word FROM information_schema.keywords WHERE word REGEXP '^[A-Z_0-9]+$'")) {
                while (rows.next()) {
                    words.add(rows.getString(1));
                }
            }
            assertThat(words).hasSizeGreaterThan(500);
            for (String word : words) {
                boolean refused = false;
                try {
                    statement.execute("CREATE OR REPLACE TEMPORARY TABLE word_test (" + word + " INT)");
                } catch (SQLException reserved) {
                    refused = true;
                }
                if (refused != dialect.identifierHint(word).isPresent()) {
                    wrong.add(word);
                }
            }
        }
        assertThat(wrong).isEmpty();
    }

    @Test
    void refusalsAreToldApart() throws Exception {
        Layout narrow = Layout.proposed().plus(constant("whole", SqlType.INTEGER));
        store.apply(List.of("CREATE TABLE narrow (id BIGINT AUTO_INCREMENT PRIMARY KEY, record_time DATETIME(3), row_id CHAR(40) CHARACTER SET ascii UNIQUE, whole TINYINT)"));
        Row fits = new Row(id(1), TIME, new Object[] {TIME, id(1).toString(), 5L});
        Row tooLarge = new Row(id(2), TIME, new Object[] {TIME, id(2).toString(), 500L});
        StoreProblem content = catchThrowableOfType(StoreProblem.class, () -> store.write(List.of(batch("narrow", narrow, false, fits, tooLarge))));
        assertThat(content.kind()).isEqualTo(Kind.CONTENT);
        assertThat(content.getMessage()).contains("Out of range value for column 'whole'");
        assertThat(store.lastRows("narrow", narrow, 5).rows()).as("all or nothing").isEmpty();
        store.write(List.of(batch("narrow", narrow, false, fits)));
        assertThat(catchThrowableOfType(StoreProblem.class, () -> store.write(List.of(batch("narrow", narrow, false, fits)))).kind()).isEqualTo(Kind.DUPLICATE);
        assertThat(store.landed(batch("narrow", narrow, false, fits, tooLarge))).containsExactly(id(1));
        assertThat(catchThrowableOfType(StoreProblem.class, () -> store.write(List.of(batch("not there", narrow, false, fits)))).kind()).isEqualTo(Kind.TABLE);
        Layout wider = narrow.plus(constant("gone", SqlType.INTEGER));
        Row more = new Row(id(3), TIME, new Object[] {TIME, id(3).toString(), 5L, 5L});
        assertThat(catchThrowableOfType(StoreProblem.class, () -> store.write(List.of(batch("narrow", wider, false, more)))).kind()).isEqualTo(Kind.TABLE);
    }

    @Test
    void theDeliveryMarkMovesWithTheRowsOrNotAtAll() throws Exception {
        Layout bare = new Layout(List.of(Layout.proposed().columns().get(1), constant("whole", SqlType.read("smallint"))));
        make("bare", bare);
        assertThat(store.mark("deadbeef:dest")).isEmpty();
        store.write(List.of(batch("bare", bare, true, new Row(id(1), TIME, new Object[] {TIME, 1L}), new Row(id(2), TIME, new Object[] {TIME, 2L}))));
        assertThat(store.mark("deadbeef:dest")).contains(id(2));
        catchThrowableOfType(StoreProblem.class, () -> store.write(List.of(batch("bare", bare, true, new Row(id(3), TIME, new Object[] {TIME, 70_000L})))));
        assertThat(store.mark("deadbeef:dest")).contains(id(2));
    }

    @Test
    void describingReadsWhatMustBeGivenAndWhatIsUnique() throws Exception {
        store.apply(List.of("CREATE TABLE described (id BIGINT AUTO_INCREMENT PRIMARY KEY, row_id CHAR(40) UNIQUE, must INT NOT NULL, may INT NOT NULL DEFAULT 3, a INT, b INT, UNIQUE (a, b)) ENGINE=InnoDB",
                "CREATE TABLE plain_file (a INT) ENGINE=MyISAM"));
        TableDescription described = store.describe("described").orElseThrow();
        assertThat(described.transactional()).isTrue();
        assertThat(described.columns()).filteredOn(TableDescription.TableColumn::mustBeGiven).extracting(TableDescription.TableColumn::name).containsExactly("must");
        assertThat(described.columns()).filteredOn(TableDescription.TableColumn::identity).extracting(TableDescription.TableColumn::name).containsExactly("id", "row_id");
        assertThat(store.describe("plain_file").orElseThrow().transactional()).isFalse();
        assertThat(store.describe("nowhere")).isEmpty();
    }

    @Test
    void tryingLeavesNothingBehindAndSaysWhatItCannotTakeBack() throws Exception {
        TryOutcome temporary = store.tryOut("to be made", EVERY_TYPE, everyType(90));
        assertThat(temporary.worked()).as(temporary.sentence()).isTrue();
        assertThat(temporary.caveats()).anyMatch(caveat -> caveat.contains("temporary"));
        assertThat(temporary.cells().get(6)).isEqualTo("-9223372036854775808");
        assertThat(store.describe("to be made")).isEmpty();

        make("tried", EVERY_TYPE);
        TryOutcome real = store.tryOut("tried", EVERY_TYPE, everyType(91));
        assertThat(real.worked()).isTrue();
        assertThat(real.caveats()).anyMatch(caveat -> caveat.contains("auto-number has moved on"));
        assertThat(store.lastRows("tried", EVERY_TYPE, 5).rows()).isEmpty();

        TryOutcome wider = store.tryOut("tried", EVERY_TYPE.plus(constant("more", SqlType.text(9))), new Row(id(92), TIME,
                java.util.Arrays.copyOf(everyType(92).cells(), EVERY_TYPE.written().size() + 1)));
        assertThat(wider.worked()).as(wider.sentence()).isTrue();
        assertThat(wider.caveats()).anyMatch(caveat -> caveat.contains("does not have more yet"));
        assertThat(store.describe("tried").orElseThrow().column("more")).isEmpty();

        store.apply(List.of("CREATE TABLE no_rollback (record_time DATETIME(3), row_id CHAR(40)) ENGINE=MyISAM"));
        Layout two = new Layout(Layout.proposed().columns().subList(1, 3));
        TryOutcome refused = store.tryOut("no_rollback", two, new Row(id(1), TIME, new Object[] {TIME, id(1).toString()}));
        assertThat(refused.worked()).isFalse();
        assertThat(refused.sentence()).contains("engine without transactions");
        assertThat(store.lastRows("no_rollback", two, 5).rows()).isEmpty();
    }

    @Test
    void testsSayWhatToLookAt() throws Exception {
        assertThat(test(Map.of())).matches(LinkTest::worked).extracting(LinkTest::sentence).asString().startsWith("MariaDB 10.");
        assertThat(test(Map.of("password", "wrong"))).extracting(LinkTest::field, each -> each.sentence().contains("refuses this user or password")).containsExactly("password", true);
        assertThat(test(Map.of("database", "nothing", "user", "root", "password", ""))).extracting(LinkTest::field, each -> each.sentence().contains("no such database")).containsExactly("database", true);
        assertThat(test(Map.of("port", Integer.toString(PrivateProcess.freePort()))).sentence()).contains("refuses 127.0.0.1");
        assertThat(test(Map.of("host", "no-such-host.invalid")).sentence()).startsWith("There is no host named no-such-host.invalid");
    }

    private static LinkTest test(Map<String, String> other) {
        try (RowStore each = new MariaDbKind().open(settings(other))) {
            return each.test(Duration.ofSeconds(3));
        }
    }
}
