package dachshund.links.jdbc;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.assertj.core.api.Assumptions.assumeThat;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableKeeping;
import dachshund.core.destination.TablePlan;
import dachshund.core.destination.TryOutcome;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** What every database as a destination has to do: types, ways of writing, upkeep. Each engine runs it against the real thing. */
public abstract class StoreContract {

    private static final Instant TIME =
            Instant.parse("2026-10-25T00:30:00.123Z"); // 01:30 in London, the first of two that night
    private static final Upkeep BOTH = new Upkeep(true, true);

    protected abstract RowStore store();

    /** Of the same database, for reading alone. */
    protected abstract RowReading reading(JdbcReader.Limits limits);

    /** Statements that make the view writing_view(n), which writes when it is read; empty where there can be none. */
    protected abstract List<String> viewThatWrites();

    /** A procedure that inserts into called_rows(a, b) what its arguments p_a and p_b say, declared in the order b, a. */
    protected abstract Optional<String> procedureOfTwo(String name);

    /** A procedure that inserts into called_rows(a, b) the members a and b of its one JSON argument. */
    protected abstract Optional<String> procedureOfOneJson(String name);

    private static Column constant(String name, SqlType type) {
        return Column.of(name, type, new ColumnSource.Constant("x"));
    }

    private static final Layout EVERY_TYPE = Layout.proposed()
            .plus(constant("yes", SqlType.BOOLEAN))
            .plus(constant("small", SqlType.read("smallint")))
            .plus(constant("whole", SqlType.INTEGER))
            .plus(constant("big", SqlType.BIGINT))
            .plus(constant("exact", SqlType.decimal(20, 6)))
            .plus(constant("short_exact", SqlType.decimal(8, 2)))
            .plus(constant("number", SqlType.DOUBLE))
            .plus(constant("words", SqlType.text(40)))
            .plus(constant("day", SqlType.DATE))
            .plus(constant("clock", SqlType.read("time(3)")))
            .plus(constant("fine", SqlType.timestamp(6)))
            .plus(constant("coarse", SqlType.timestamp(0)))
            .plus(constant("doc", SqlType.JSON))
            .plus(constant("guid", SqlType.UUID));

    private static RowId id(int n) {
        return new RowId("0a1b2c", "deadbeef", 7, n, 0);
    }

    private static final UUID GUID = UUID.fromString("f81d4fae-7dec-11d0-a765-00a0c91e6bf6");

    private static Row everyType(int n) {
        return new Row(id(n), TIME, new Object[] {
            TIME,
            id(n).toString(),
            true,
            -32768L,
            Integer.MAX_VALUE + 0L,
            Long.MIN_VALUE,
            new BigDecimal("12345678901234.567891"),
            new BigDecimal("-12.10"),
            0.1,
            "Späne 🐕 ' \" ` \\ \n",
            LocalDate.of(2028, 2, 29),
            LocalTime.parse("01:02:03.004"),
            Instant.parse("2026-03-29T01:30:00.123456Z"),
            Instant.parse("2026-12-31T23:59:59Z"),
            "{\"a\": [1, \"ö\"]}",
            GUID
        });
    }

    private static Row nulls(int n) {
        Object[] cells = new Object[EVERY_TYPE.written().size()];
        cells[0] = TIME;
        cells[1] = id(n).toString();
        return new Row(id(n), TIME, cells);
    }

    private static RowBatch batch(String table, Layout layout, boolean mark, WriteMode mode, Row... rows) {
        return new RowBatch("deadbeef:dest", table, layout, mark, mode, List.of(rows));
    }

    private static RowBatch inserts(String table, Layout layout, Row... rows) {
        return batch(table, layout, false, new WriteMode.Insert(), rows);
    }

    /** As the night does with rows that are old enough. */
    @Test
    void rowsAreFoundByTheirTimeAndRemovedByTheirIds() throws Exception {
        Layout layout = Layout.proposed();
        make("old_rows", layout);
        store().write(List.of(inserts(
                "old_rows",
                layout,
                IntStream.range(0, 700)
                        .mapToObj(n -> {
                            Instant at = TIME.plus(Duration.ofMinutes(n));
                            return new Row(
                                    id(n + 1), at, new Object[] {at, id(n + 1).toString()});
                        })
                        .toArray(Row[]::new))));
        Column rowId = layout.rowIdColumn().orElseThrow();
        List<RowId> found = new ArrayList<>();
        try (RowReading reading = reading(JdbcReader.Limits.USUAL)) {
            reading.between(
                    "old_rows",
                    layout,
                    layout.recordTimeColumn().orElseThrow(),
                    Instant.parse("1970-01-02T00:00:00Z"),
                    TIME.plus(Duration.ofMinutes(600)),
                    300,
                    (names, cells) -> found.add(RowId.read((String) cells.get(names.indexOf(rowId.name())))));
        }
        assertThat(found)
                .isEqualTo(IntStream.rangeClosed(1, 300).mapToObj(n -> id(n)).toList());
        assertThat(store().remove("old_rows", rowId.name(), found)).isEqualTo(300);
        assertThat(store().remove("old_rows", rowId.name(), found)).isZero();
        assertThat(store().remove("old_rows", rowId.name(), List.of())).isZero();
        List<Object> left = new ArrayList<>();
        store().readAll("old_rows", layout, left::add);
        assertThat(left).hasSize(400);
        StoreProblem none =
                catchThrowableOfType(StoreProblem.class, () -> store().remove("no_table", rowId.name(), found));
        assertThat(none.kind()).isEqualTo(Kind.TABLE);
    }

    private void make(String table, Layout layout) throws StoreProblem {
        store().apply(store().dialect().createTable(table, layout, false));
    }

    private StoreProblem refused(RowBatch batch) {
        return catchThrowableOfType(StoreProblem.class, () -> store().write(List.of(batch)));
    }

    private static final Layout ONE_NUMBER = new Layout(List.of(constant("n", SqlType.BIGINT)));

    private static Row number(int n) {
        return new Row(id(n), TIME, new Object[] {(long) n});
    }

    @Test
    void whoReadsGetsNoMoreThanTheyMayAndCannotWrite() throws Exception {
        make("read_numbers", ONE_NUMBER);
        store().write(List.of(inserts("read_numbers", ONE_NUMBER, number(1), number(2), number(3))));
        try (RowReading few = reading(new JdbcReader.Limits(Duration.ofSeconds(20), Duration.ofSeconds(20), 2))) {
            assertThat(few.lastRows("read_numbers", ONE_NUMBER, 10).rows()).hasSize(2);
            List<List<Object>> all = new ArrayList<>();
            few.readAll("read_numbers", ONE_NUMBER, all::add);
            assertThat(all).hasSize(3);
            assertThat(few.lastRows("not_there", ONE_NUMBER, 10).rows()).isEmpty();
            if (!viewThatWrites().isEmpty()) {
                store().apply(viewThatWrites());
                assertThat(store().tryOut(inserts("read_numbers", ONE_NUMBER, number(4)))
                                .worked())
                        .as("this user may write")
                        .isTrue();
                try {
                    assertThat(few.lastRows("writing_view", ONE_NUMBER, 1).rows())
                            .as("a view that cannot even be described without writing")
                            .isEmpty();
                } catch (StoreProblem refused) {
                    assertThat(refused).hasMessageContaining("read");
                }
                assertThat(store().lastRows("read_numbers", ONE_NUMBER, 10).rows())
                        .as("nothing was written")
                        .hasSize(3);
            }
        }
    }

    /** A table of 3,000 rows three times beside itself takes minutes. */
    @Test
    void readingThatTakesTooLongIsBrokenOffWithASentenceAndTheNextGoesOn() throws Exception {
        make("many_numbers", ONE_NUMBER);
        Row[] rows = IntStream.range(0, 3_000).mapToObj(StoreContract::number).toArray(Row[]::new);
        store().write(List.of(inserts("many_numbers", ONE_NUMBER, rows)));
        store().apply(List.of("CREATE VIEW slow_view AS SELECT COUNT(*) AS n FROM many_numbers a, many_numbers b,"
                + " many_numbers c WHERE a.n * b.n + c.n < 0"));
        try (RowReading hasty = reading(new JdbcReader.Limits(Duration.ofSeconds(1), Duration.ofSeconds(1), 10))) {
            for (int i = 0; i < 3; i++) {
                StoreProblem late =
                        catchThrowableOfType(StoreProblem.class, () -> hasty.lastRows("slow_view", ONE_NUMBER, 1));
                assertThat(late).hasMessageContaining("longer than 1 s");
                assertThat(late.kind()).isEqualTo(Kind.BUSY);
            }
            StoreProblem late =
                    catchThrowableOfType(StoreProblem.class, () -> hasty.readAll("slow_view", ONE_NUMBER, cells -> {}));
            assertThat(late).hasMessageContaining("longer than 1 s");
            assertThat(hasty.lastRows("many_numbers", ONE_NUMBER, 5).rows()).hasSize(5);
        }
    }

    @Test
    void everyTypeAndNullComesBackAsItWentIn() throws Exception {
        make("every type", EVERY_TYPE);
        store().write(List.of(inserts("every type", EVERY_TYPE, everyType(1), nulls(2), everyType(3))));
        store().write(List.of(inserts("every type", EVERY_TYPE, everyType(4))));
        RowReading.TablePage page = store().lastRows("every type", EVERY_TYPE, 10);
        assertThat(page.rows()).hasSize(4);
        List<Object> row = page.rows().get(3);
        Row wrote = everyType(1);
        for (int i = 0; i < wrote.cells().length; i++) {
            Object cell = row.get(i + 1);
            String column = EVERY_TYPE.written().get(i).name();
            if (column.equals("doc")) {
                assertThat(new ObjectMapper().readTree((String) cell))
                        .isEqualTo(new ObjectMapper().readTree("{\"a\": [1, \"ö\"]}"));
            } else if (wrote.cells()[i] instanceof BigDecimal exact) {
                assertThat((BigDecimal) cell).as(column).isEqualByComparingTo(exact);
            } else if (wrote.cells()[i] instanceof Long whole) {
                assertThat(((Number) cell).longValue()).as(column).isEqualTo(whole);
            } else {
                assertThat(cell)
                        .as(column)
                        .isEqualTo(wrote.cells()[i] instanceof UUID ? GUID.toString() : wrote.cells()[i]);
            }
        }
        assertThat(page.rows().get(2).subList(3, row.size())).containsOnlyNulls();
        List<List<Object>> all = new ArrayList<>();
        store().readAll("every type", EVERY_TYPE, all::add);
        assertThat(all).hasSize(4).first().isEqualTo(row);
    }

    /** All but JSON and UUID, which some engines write in another way than the rest. */
    protected static final Layout PLAIN_TYPES =
            new Layout(EVERY_TYPE.columns().subList(0, EVERY_TYPE.columns().size() - 2));

    /** Rows at the edges of what each type holds. */
    protected static List<Row> edges() {
        List<Object[]> edges = new ArrayList<>();
        for (String words :
                List.of("", "NULL", "{a,b}", "a\"b\\c", "'; --", "\t\n", " x ", "Späne 🐕", "x".repeat(40))) {
            edges.add(new Object[] {false, 0L, 0L, 0L, BigDecimal.ZERO, BigDecimal.ZERO, -0.0, words});
        }
        edges.add(new Object[] {
            true,
            32767L,
            -2147483648L,
            Long.MAX_VALUE,
            new BigDecimal("-99999999999999.999999"),
            new BigDecimal("1E+5"),
            Double.MAX_VALUE,
            null
        });
        edges.add(
                new Object[] {null, null, 2147483647L, null, new BigDecimal("0.000001"), null, Double.MIN_NORMAL, "last"
                });
        List<Row> rows = new ArrayList<>();
        for (Object[] edge : edges) {
            int n = rows.size() + 1;
            boolean odd = n % 2 == 1;
            Object[] cells = new Object[PLAIN_TYPES.written().size()];
            cells[0] = TIME;
            cells[1] = id(n).toString();
            System.arraycopy(edge, 0, cells, 2, edge.length);
            cells[10] = odd ? LocalDate.of(1000, 1, 1) : LocalDate.of(9999, 12, 31);
            cells[11] = odd ? LocalTime.MIDNIGHT : LocalTime.parse("23:59:59.999");
            cells[12] =
                    odd ? Instant.parse("1000-01-02T00:00:00.000001Z") : Instant.parse("9999-12-30T23:59:59.999999Z");
            cells[13] = odd ? Instant.EPOCH : Instant.parse("1582-10-10T12:00:00Z");
            rows.add(new Row(id(n), TIME, cells));
        }
        return rows;
    }

    /** Many at once go another way through the driver than one alone, and have to stand there alike, in their order. */
    @Test
    void manyRowsAtOnceStandThereAsOneAfterTheOther() throws Exception {
        make("one_by_one", PLAIN_TYPES);
        make("at_once", PLAIN_TYPES);
        for (Row row : edges()) {
            store().write(List.of(inserts("one_by_one", PLAIN_TYPES, row)));
        }
        store().write(List.of(inserts("at_once", PLAIN_TYPES, edges().toArray(Row[]::new))));
        List<List<Object>> oneByOne = new ArrayList<>();
        List<List<Object>> atOnce = new ArrayList<>();
        store().readAll("one_by_one", PLAIN_TYPES, oneByOne::add);
        store().readAll("at_once", PLAIN_TYPES, atOnce::add);
        assertThat(atOnce).hasSize(edges().size()).isEqualTo(oneByOne);
    }

    /** Whether a database that is not there is made by opening it. */
    protected boolean madeByOpening() {
        return false;
    }

    @Test
    void anotherDatabaseOfTheServerHasTablesOfItsOwn() throws Exception {
        assertThat(store().hasDatabase("Line-2 ä")).isFalse();
        RowStore beside = store().in("Line-2 ä");
        if (!madeByOpening()) {
            StoreProblem missing = catchThrowableOfType(StoreProblem.class, () -> beside.describe("rows beside"));
            assertThat(missing.kind()).as("no outage of the whole server").isEqualTo(StoreProblem.Kind.TABLE);
            assertThat(missing.getMessage()).contains("no such database");
        }
        beside.createDatabase();
        assertThat(store().hasDatabase("Line-2 ä")).isTrue();
        beside.apply(store().dialect().createTable("rows beside", EVERY_TYPE, false));
        beside.write(List.of(inserts("rows beside", EVERY_TYPE, everyType(1), nulls(2))));
        assertThat(beside.landed(inserts("rows beside", EVERY_TYPE, everyType(1), everyType(3))))
                .containsExactly(id(1));
        assertThat(beside.lastRows("rows beside", EVERY_TYPE, 10).rows()).hasSize(2);
        assertThat(store().tables()).doesNotContain("rows beside");
        assertThat(store().in("")).isSameAs(store());
    }

    /** The table that was made reads back as the types it was made of, so an existing table of them has no conflict. */
    @Test
    void aTableThatWasMadeFitsItsOwnLayout() throws Exception {
        Layout keyed =
                EVERY_TYPE.withKeys(List.of("whole", "day"), List.of(List.of("record_time"), List.of("words", "big")));
        make("fits itself", keyed);
        Optional<TableDescription> found = store().describe("fits itself");
        TablePlan plan = TablePlan.of(
                store().dialect(), "fits itself", keyed, new WriteMode.InsertOrUpdate(), Upkeep.NONE, found);
        assertThat(plan.problems()).isEmpty();
        assertThat(plan.advice()).isEmpty();
        assertThat(plan.statements()).isEmpty();
        assertThat(found.orElseThrow().hasUnique(List.of("row_id"))).isTrue();
        assertThat(store().describe("FITS NOT")).isEmpty();
    }

    @Test
    void namesWithAnyCharactersWork() throws Exception {
        Layout layout = Layout.proposed();
        for (String name : List.of(
                "inlet temp",
                "it's",
                "say \"hi\"",
                "back`tick",
                "select",
                "Ölstand °C",
                "a;b--c",
                "2026",
                "[square]",
                "?",
                "$1",
                ":colon")) {
            layout = layout.plus(constant(name, SqlType.text(10)));
        }
        String table = "odd `name` \"x\" ; drop";
        make(table, layout);
        Object[] cells = new Object[layout.written().size()];
        java.util.Arrays.fill(cells, "v");
        cells[0] = TIME;
        cells[1] = id(1).toString();
        store().write(List.of(inserts(table, layout, new Row(id(1), TIME, cells))));
        assertThat(store().lastRows(table, layout, 1).columns()).hasSize(15).contains("back`tick", "select");
        assertThat(store().tables()).contains(table).doesNotContain(JdbcStore.MARK_TABLE);
        store().apply(store().dialect().addColumn(table, constant("later \"on\"", SqlType.DOUBLE)));
        assertThat(store().describe(table).orElseThrow().column("later \"on\"")).isPresent();
    }

    private static final Layout KEYED = new Layout(List.of(
                    constant("lot", SqlType.text(20)),
                    constant("bags", SqlType.INTEGER),
                    constant("note", SqlType.text(20))))
            .withKeys(List.of("lot"), List.of());

    private static Row lot(int n, String lot, Long bags, String note) {
        return new Row(id(n), TIME, new Object[] {lot, bags, note});
    }

    private List<List<Object>> lots(String table) throws StoreProblem {
        List<List<Object>> rows = new ArrayList<>();
        store().readAll(
                        table,
                        KEYED,
                        cells -> rows.add(List.of(
                                cells.get(0), ((Number) cells.get(1)).longValue(), String.valueOf(cells.get(2)))));
        rows.sort(java.util.Comparator.comparing(row -> row.get(0).toString()));
        return rows;
    }

    @Test
    void insertOrUpdateChangesTheRowOfItsKeyOrMakesIt() throws Exception {
        make("lots", KEYED);
        WriteMode mode = new WriteMode.InsertOrUpdate();
        store().write(List.of(batch("lots", KEYED, false, mode, lot(1, "L1", 10L, "a"), lot(2, "L2", 20L, "b"))));
        store().write(List.of(batch(
                "lots", KEYED, false, mode, lot(3, "L1", 11L, null), lot(4, "L3", 30L, "c"), lot(5, "L3", 31L, "d"))));
        store().write(List.of(batch("lots", KEYED, false, mode, lot(6, "L2", 21L, "e"))));
        assertThat(lots("lots"))
                .containsExactly(List.of("L1", 11L, "null"), List.of("L2", 21L, "e"), List.of("L3", 31L, "d"));
    }

    /** So that what has landed is found by the row id also where rows change each other. */
    @Test
    void theRowIdOfAChangedRowIsThatOfTheRowThatWasWrittenThereLast() throws Exception {
        Layout layout = new Layout(List.of(
                        Layout.proposed().columns().get(1),
                        Layout.proposed().columns().get(2),
                        constant("lot", SqlType.text(20))))
                .withKeys(List.of("lot"), List.of());
        make("lots with ids", layout);
        WriteMode mode = new WriteMode.InsertOrUpdate();
        for (int n = 1; n <= 3; n++) {
            store().write(List.of(batch("lots with ids", layout, false, mode, new Row(id(n), TIME, new Object[] {
                TIME, id(n).toString(), "L1"
            }))));
        }
        assertThat(store().lastRows("lots with ids", layout, 5).rows())
                .singleElement()
                .satisfies(row -> assertThat(row).contains(id(3).toString()));
        Row last = new Row(id(3), TIME, new Object[] {TIME, id(3).toString(), "L1"});
        assertThat(store().landed(batch("lots with ids", layout, false, mode, last)))
                .containsExactly(id(3));
    }

    /** After an outage hundreds of rows of one key wait: the last of them is what stands there. */
    @Test
    void ofManyRowsOfOneKeyInABatchTheLastOneCounts() throws Exception {
        make("lots of lots", KEYED);
        WriteMode mode = new WriteMode.InsertOrUpdate();
        Row[] rows = IntStream.range(0, 600)
                .mapToObj(n -> lot(n + 1, "L" + n % 3, (long) n, n % 7 == 0 ? null : "row " + n))
                .toArray(Row[]::new);
        store().write(List.of(batch("lots of lots", KEYED, false, mode, rows)));
        assertThat(lots("lots of lots"))
                .containsExactly(
                        List.of("L0", 597L, "row 597"), List.of("L1", 598L, "row 598"), List.of("L2", 599L, "row 599"));
    }

    @Test
    void anUpdateOfARowThatIsNotThereIsRefusedWithItsKey() throws Exception {
        make("updated", KEYED);
        store().write(List.of(inserts("updated", KEYED, lot(1, "L1", 1L, "a"), lot(2, "L2", 2L, "b"))));
        WriteMode update = new WriteMode.Update();
        store().write(List.of(batch("updated", KEYED, false, update, lot(3, "L2", 5L, "z"), lot(4, "L1", 1L, "a"))));
        StoreProblem problem =
                refused(batch("updated", KEYED, false, update, lot(5, "L1", 9L, "y"), lot(6, "L9", 9L, "y")));
        assertThat(problem.kind()).isEqualTo(Kind.CONTENT);
        assertThat(problem.getMessage()).contains("no row to update", "lot = L9");
        assertThat(lots("updated"))
                .as("all or nothing")
                .containsExactly(List.of("L1", 1L, "a"), List.of("L2", 5L, "z"));
    }

    @Test
    void proceduresAreCalledByTheNamesOfTheirArgumentsOrWithOneJsonText() throws Exception {
        Optional<String> ofTwo = procedureOfTwo("take two");
        assumeThat(ofTwo).as("the engine has procedures").isPresent();
        Layout called = new Layout(List.of(constant("a", SqlType.INTEGER), constant("b", SqlType.text(20))));
        make("called_rows", called);
        store().apply(List.of(
                ofTwo.orElseThrow(), procedureOfOneJson("take_json").orElseThrow()));
        store().write(List.of(batch(
                "",
                called,
                true,
                new WriteMode.Call("take two", List.of("p_a", "p_b")),
                new Row(id(1), TIME, new Object[] {1L, "one"}),
                new Row(id(2), TIME, new Object[] {2L, null}))));
        store().write(List.of(
                batch("", called, true, new WriteMode.Call("take_json", List.of()), new Row(id(3), TIME, new Object[] {
                    3L, "drei \"3\""
                }))));
        List<List<Object>> rows = new ArrayList<>();
        store().readAll("called_rows", called, rows::add);
        assertThat(rows)
                .extracting(row -> row.get(0) + " " + row.get(1))
                .containsExactlyInAnyOrder("1 one", "2 null", "3 drei \"3\"");
        assertThat(store().mark("deadbeef:dest")).contains(id(3));
        assertThat(store().procedures())
                .filteredOn(each -> each.name().equals("take two"))
                .singleElement()
                .extracting(
                        TableKeeping.Procedure::arguments,
                        org.assertj.core.api.InstanceOfAssertFactories.list(String.class))
                .containsExactlyInAnyOrder("p_a", "p_b");
        assertThat(refused(batch(
                                "",
                                called,
                                false,
                                new WriteMode.Call("not there", List.of("x", "y")),
                                new Row(id(4), TIME, new Object[] {1L, "x"})))
                        .kind())
                .isEqualTo(Kind.TABLE);
    }

    @Test
    void refusalsAreToldApart() throws Exception {
        Layout narrow = Layout.proposed()
                .plus(new Column(
                        "must",
                        SqlType.read("smallint"),
                        new ColumnSource.Constant("x"),
                        true,
                        dachshund.core.layout.BadQuality.WRITE_NULL));
        make("narrow", narrow);
        Row fits = new Row(id(1), TIME, new Object[] {TIME, id(1).toString(), 5L});
        Row missing = new Row(id(2), TIME, new Object[] {TIME, id(2).toString(), null});
        assertThat(refused(inserts("narrow", narrow, fits, missing)).kind()).isEqualTo(Kind.CONTENT);
        assertThat(store().lastRows("narrow", narrow, 5).rows())
                .as("all or nothing")
                .isEmpty();
        store().write(List.of(inserts("narrow", narrow, fits)));
        StoreProblem twice = refused(inserts("narrow", narrow, fits));
        assertThat(twice.kind()).as(twice.getMessage()).isEqualTo(Kind.DUPLICATE);
        assertThat(refused(inserts(
                                "narrow",
                                narrow,
                                new Row(id(5), TIME, new Object[] {TIME, id(5).toString(), 5L}),
                                fits))
                        .kind())
                .as("also in a batch")
                .isEqualTo(Kind.DUPLICATE);
        assertThat(store().landed(inserts("narrow", narrow, fits, missing))).containsExactly(id(1));
        assertThat(refused(inserts("not there", narrow, fits)).kind()).isEqualTo(Kind.TABLE);
        Layout wider = narrow.plus(constant("gone", SqlType.INTEGER));
        assertThat(refused(inserts(
                                "narrow", wider, new Row(id(3), TIME, new Object[] {TIME, id(3).toString(), 5L, 5L})))
                        .kind())
                .isEqualTo(Kind.TABLE);
    }

    @Test
    void theDeliveryMarkMovesWithTheRowsOrNotAtAll() throws Exception {
        Layout bare = new Layout(List.of(
                Layout.proposed().columns().get(1),
                new Column(
                        "whole",
                        SqlType.read("smallint"),
                        new ColumnSource.Constant("x"),
                        true,
                        dachshund.core.layout.BadQuality.WRITE_NULL)));
        make("bare", bare);
        assertThat(store().mark("other:dest")).isEmpty();
        RowBatch two = new RowBatch(
                "other:dest",
                "bare",
                bare,
                true,
                new WriteMode.Insert(),
                List.of(new Row(id(1), TIME, new Object[] {TIME, 1L}), new Row(id(2), TIME, new Object[] {TIME, 2L})));
        store().write(List.of(two));
        assertThat(store().mark("other:dest")).contains(id(2));
        refused(new RowBatch(
                "other:dest", "bare", bare, true, new WriteMode.Insert(), List.of(new Row(id(3), TIME, new Object[] {
                    TIME, null
                }))));
        assertThat(store().mark("other:dest")).contains(id(2));
    }

    @Test
    void upkeepAddsWhatIsMissingAndWritesWithoutWhatIsGone() throws Exception {
        Layout first = Layout.proposed().plus(constant("a", SqlType.INTEGER));
        make("kept up", first);
        Layout second = first.plus(constant("b", SqlType.text(20)));
        TablePlan plan = TablePlan.of(
                store().dialect(), "kept up", second, new WriteMode.Insert(), BOTH, store().describe("kept up"));
        store().apply(plan.statements());
        store().write(List.of(
                inserts("kept up", second, new Row(id(1), TIME, new Object[] {TIME, id(1).toString(), 1L, "x"}))));
        store().apply(List.of("ALTER TABLE " + store().dialect().quote("kept up") + " DROP COLUMN "
                + store().dialect().quote("a")));
        RowBatch batch =
                inserts("kept up", second, new Row(id(2), TIME, new Object[] {TIME, id(2).toString(), 2L, "y"}));
        assertThat(refused(batch).kind()).isEqualTo(Kind.TABLE);
        TablePlan running = TablePlan.whileRunning(
                store().dialect(), "kept up", second, new WriteMode.Insert(), BOTH, store().describe("kept up"));
        assertThat(running.leftOut()).containsExactly("a");
        store().write(List.of(batch.without(running.leftOut())));
        assertThat(store().lastRows("kept up", second, 1).rows().get(0)).contains("y");
    }

    /** A layout without a row id gets one later: rows that are there have none, and that is no conflict among them. */
    @Test
    void aRowIdCanBeAddedToATableWithRows() throws Exception {
        Layout without = new Layout(List.of(constant("a", SqlType.INTEGER)));
        make("grown", without);
        store().write(List.of(inserts(
                "grown", without, new Row(id(1), TIME, new Object[] {1L}), new Row(id(2), TIME, new Object[] {2L}))));
        Layout with = without.plus(Layout.proposed().columns().get(2));
        store().apply(TablePlan.of(
                        store().dialect(), "grown", with, new WriteMode.Insert(), BOTH, store().describe("grown"))
                .statements());
        store().write(List.of(inserts("grown", with, new Row(id(3), TIME, new Object[] {3L, id(3).toString()}))));
        assertThat(refused(inserts("grown", with, new Row(id(3), TIME, new Object[] {3L, id(3).toString()})))
                        .kind())
                .isEqualTo(Kind.DUPLICATE);
    }

    @Test
    void tryingLeavesNothingBehind() throws Exception {
        TryOutcome temporary = store().tryOut(inserts("to be made", EVERY_TYPE, everyType(90)));
        assertThat(temporary.worked()).as(temporary.sentence()).isTrue();
        assertThat(temporary.caveats()).anyMatch(caveat -> caveat.contains("temporary"));
        assertThat(temporary.cells().get(6)).isEqualTo("-9223372036854775808");
        assertThat(store().describe("to be made")).isEmpty();
        make("tried", EVERY_TYPE);
        TryOutcome real = store().tryOut(inserts("tried", EVERY_TYPE, everyType(91)));
        assertThat(real.worked()).as(real.sentence()).isTrue();
        assertThat(real.caveats()).anyMatch(caveat -> caveat.contains("auto-number has moved on"));
        assertThat(store().lastRows("tried", EVERY_TYPE, 5).rows()).isEmpty();
        TryOutcome wider = store().tryOut(inserts(
                "tried",
                EVERY_TYPE.plus(constant("more", SqlType.text(9))),
                new Row(
                        id(92),
                        TIME,
                        java.util.Arrays.copyOf(
                                everyType(92).cells(), EVERY_TYPE.written().size() + 1))));
        assertThat(wider.worked()).as(wider.sentence()).isTrue();
        assertThat(wider.caveats()).anyMatch(caveat -> caveat.contains("does not have more yet"));
        assertThat(store().describe("tried").orElseThrow().column("more")).isEmpty();
        assertThat(store().tryOut(inserts(
                                "narrow try",
                                new Layout(List.of(constant("a", SqlType.read("smallint")))),
                                new Row(id(93), TIME, new Object[] {"text"})))
                        .worked())
                .as("what would be refused")
                .isEqualTo(store().dialect().engine().equals("SQLite"));
        make("tried lots", KEYED);
        store().write(List.of(inserts("tried lots", KEYED, lot(1, "L1", 1L, "a"))));
        TryOutcome upsert = store().tryOut(
                        batch("tried lots", KEYED, false, new WriteMode.InsertOrUpdate(), lot(2, "L1", 7L, "b")));
        assertThat(upsert.cells()).as(upsert.sentence()).containsExactly("L1", "7", "b");
        assertThat(lots("tried lots")).containsExactly(List.of("L1", 1L, "a"));
    }
}
