package dachshund.links.jdbc;

import static dachshund.links.jdbc.Beds.ZONE;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;
import static org.assertj.core.api.Assertions.offset;

import dachshund.core.destination.StoreKind;
import dachshund.core.query.DesignedQuery;
import dachshund.core.query.DesignedQuery.ColumnOf;
import dachshund.core.query.DesignedQuery.Filter;
import dachshund.core.query.DesignedQuery.How;
import dachshund.core.query.DesignedQuery.Join;
import dachshund.core.query.DesignedQuery.Op;
import dachshund.core.query.DesignedQuery.Order;
import dachshund.core.query.DesignedQuery.Pair;
import dachshund.core.query.DesignedQuery.Shown;
import dachshund.core.query.DesignedQuery.Time;
import dachshund.core.query.DesignedSql;
import dachshund.core.query.Per;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.QueryParameter;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TimeColumn.Form;
import dachshund.core.shift.Shift;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.window.Context;
import dachshund.core.window.Span;
import dachshund.links.jdbc.Beds.Bed;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.links.postgresql.PostgreSqlEngine;
import dachshund.links.sqlite.SqliteEngine;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.Statement;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Lines that are the same for every engine give the same rows there, over a day of 25 hours too. */
class DesignedQueriesTest {

    private static final Set<DayOfWeek> ALL = Set.of(DayOfWeek.values());
    private static final ShiftCalendar SHIFTS = new ShiftCalendar(
            List.of(
                    new Shift("Early", LocalTime.of(6, 0), LocalTime.of(14, 0), ALL),
                    new Shift("Late", LocalTime.of(14, 0), LocalTime.of(22, 0), ALL),
                    new Shift("Night", LocalTime.of(22, 0), LocalTime.of(6, 0), ALL)),
            List.of(),
            true);
    private static final Context HERE = new Context(Instant.parse("2026-11-28T00:00:00Z"), ZONE, SHIFTS);
    /** The clocks are set back within it. */
    private static final Span DAYS =
            new Span(Instant.parse("2026-10-23T22:00:00Z"), Instant.parse("2026-10-26T23:00:00Z"), false);

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

    private static StoreKind kind(Bed bed) {
        return switch (bed.engine()) {
            case "MariaDB" -> MariaDbEngine.mariaDb();
            case "PostgreSQL" -> PostgreSqlEngine.kind();
            default -> SqliteEngine.kind(folder.resolve("files"));
        };
    }

    private static ColumnOf column(String name) {
        return new ColumnOf(0, name);
    }

    private static Shown shown(How how, String column, String as) {
        return new Shown(how, Optional.of(column(column)), "", as);
    }

    private static Shown computed(String formula, String as) {
        return new Shown(How.COMPUTED, Optional.empty(), formula, as);
    }

    private static DesignedQuery lots(Bed bed, String time, Form form, Optional<Per> per, List<Shown> shown) {
        TableShape.Column column;
        try {
            column = bed.reading()
                    .describe(bed.name("lot"))
                    .orElseThrow()
                    .column(time)
                    .orElseThrow();
        } catch (dachshund.core.destination.StoreProblem away) {
            throw new AssertionError(away);
        }
        return new DesignedQuery(
                "db",
                bed.name("lot"),
                List.of(),
                Optional.of(new Time(column(time), form, column.typeName())),
                per,
                List.of(),
                shown,
                List.of(),
                List.of(),
                0);
    }

    private record Answer(List<String> columns, List<List<Object>> rows) {
        List<Double> numbers(String column) {
            int at = columns.indexOf(column);
            return rows.stream()
                    .map(row -> row.get(at) == null ? null : ((Number) row.get(at)).doubleValue())
                    .toList();
        }

        List<Object> cells(String column) {
            return rows.stream().map(row -> row.get(columns.indexOf(column))).toList();
        }
    }

    private static Answer ask(Bed bed, DesignedQuery query, Map<String, Object> given) throws Exception {
        DesignedSql sql = DesignedSql.of(query, kind(bed).dialect());
        QueryText text = QueryText.of(sql.text());
        List<Object> values = new ArrayList<>();
        for (String name : text.names()) {
            if (given.containsKey(name)) {
                values.add(given.get(name));
            } else if (sql.fixed().containsKey(name)) {
                QueryParameter fixed = sql.fixed().get(name);
                values.add(fixed.value(fixed.start(), ZONE));
            } else if (name.startsWith("from") || name.startsWith("to")) {
                Instant at = name.startsWith("from") ? DAYS.from() : DAYS.to();
                values.add(
                        name.endsWith("_ms")
                                ? BigDecimal.valueOf(at.toEpochMilli())
                                : name.endsWith("_s") ? BigDecimal.valueOf(at.getEpochSecond()) : at);
            } else {
                assertThat(QueryDefinition.OF_THE_WINDOW).contains(name);
                values.add(Per.table(name, DAYS, HERE));
            }
        }
        return ask(bed, text, values);
    }

    /** Each lot belongs to one period, however its times are written; the third hour of the night that is there twice has both. */
    @ParameterizedTest
    @MethodSource("engines")
    void everyRowIsInOnePeriodThoughTheClockIsSetBack(Bed bed) throws Exception {
        for (Per per : Per.values()) {
            // Lots by the period of their instants, without any database.
            Map<Instant, Integer> expected = new TreeMap<>();
            Map<Instant, Double> weights = new TreeMap<>();
            for (int i = 0; i < 5000; i++) {
                Instant made = Instant.parse("2026-10-20T00:00:00Z").plusSeconds(600L * i);
                if (DAYS.contains(made)) {
                    Instant begins = per.in(DAYS, HERE).stream()
                            .filter(each -> !made.isBefore(each.from()) && made.isBefore(each.to()))
                            .findFirst()
                            .orElseThrow()
                            .from();
                    expected.merge(begins, 1, Integer::sum);
                    weights.merge(begins, (double) (i % 1000), Double::sum);
                }
            }
            for (String column : List.of("made", "seconds", "millis")) {
                Form form = column.equals("made") ? Form.STAMP : column.equals("millis") ? Form.MILLIS : Form.SECONDS;
                Answer answer = ask(
                        bed,
                        lots(
                                bed,
                                column,
                                form,
                                Optional.of(per),
                                List.of(
                                        new Shown(How.COUNT, Optional.empty(), "", "lots"),
                                        shown(How.SUM, "weight", "kg"),
                                        shown(How.MEAN, "weight", "mean"),
                                        computed("kg / lots", "same"),
                                        computed("round(kg / 7, 2)", "rounded"))),
                        Map.of());
                String what = per + " by " + column;
                double all = expected.values().stream().mapToInt(each -> each).sum();
                assertThat(answer.numbers("lots").stream()
                                .mapToDouble(each -> each)
                                .sum())
                        .as(what)
                        .isEqualTo(all);
                if (form != Form.STAMP || per != Per.HOUR && per != Per.QUARTER_HOUR) {
                    assertThat(answer.numbers("lots"))
                            .as(what)
                            .isEqualTo(expected.values().stream()
                                    .map(each -> (double) each)
                                    .toList());
                    assertThat(answer.numbers("kg")).as(what).isEqualTo(List.copyOf(weights.values()));
                }
                assertThat(answer.numbers("same")).as(what).isEqualTo(answer.numbers("mean"));
                for (int i = 0; i < answer.rows().size(); i++) {
                    assertThat(answer.numbers("rounded").get(i))
                            .isCloseTo(answer.numbers("kg").get(i) / 7, offset(0.0051));
                }
                if (!bed.engine().equals("SQLite")) {
                    assertThat(answer.cells(per.named() ? "begins" : "start"))
                            .as(what)
                            .isSubsetOf(expected.keySet());
                }
                if (per == Per.SHIFT) {
                    assertThat(answer.cells("shift").subList(0, 3))
                            .isEqualTo(List.of("Night", "Early", "Late").subList(0, 3));
                }
            }
        }
    }

    /** A join, filters of every kind, an order: as a separate client has it, who was told in SQL of its own. */
    @ParameterizedTest
    @MethodSource("engines")
    void joinsFiltersAndOrderAreThoseOfASeparateClient(Bed bed) throws Exception {
        try (Connection connection = DriverManager.getConnection(beds.mariaDb.url("laboratory"));
                Statement statement = connection.createStatement()) {
            if (bed.engine().equals("MariaDB")) {
                fillAnalyses();
            }
            DesignedQuery query = new DesignedQuery(
                    "db",
                    bed.name("lot"),
                    List.of(new Join(bed.name("analysis"), List.of(new Pair(column("lot_no"), "lot_no")), true)),
                    Optional.empty(),
                    Optional.empty(),
                    List.of(),
                    List.of(
                            shown(How.ITSELF, "lot_no", ""),
                            new Shown(How.ITSELF, Optional.of(new ColumnOf(1, "moisture")), "", ""),
                            shown(How.ITSELF, "weight", ""),
                            computed("weight / moisture", "quotient"),
                            computed("if(weight > 500, weight * 2, 0 - weight)", "chosen")),
                    List.of(
                            new Filter(column("note"), Op.CONTAINS, "lot \"1", QueryParameter.Sort.TEXT),
                            new Filter(column("note"), Op.BEGINS, ":begins", QueryParameter.Sort.TEXT),
                            new Filter(column("note"), Op.NOT, "it's \\ ' \"", QueryParameter.Sort.TEXT),
                            new Filter(column("note"), Op.FILLED, "", QueryParameter.Sort.TEXT),
                            new Filter(column("weight"), Op.AT_LEAST, "12.5", QueryParameter.Sort.NUMBER),
                            new Filter(column("weight"), Op.LESS, "600", QueryParameter.Sort.NUMBER),
                            new Filter(column("day"), Op.GREATER, "2026-10-20", QueryParameter.Sort.DATE),
                            new Filter(column("made"), Op.AT_MOST, "2026-11-01 12:00:00", QueryParameter.Sort.TIME)),
                    List.of(new Order("weight", true), new Order("lot_no", false)),
                    40);
            Answer answer = ask(bed, query, Map.of("begins", "LOT \""));
            List<String> theirs = new ArrayList<>();
            try (ResultSet rows = statement.executeQuery(
                    """
                    SELECT l.lot_no, moisture, weight FROM lot l LEFT JOIN analysis n ON n.lot_no = l.lot_no
                    WHERE note LIKE 'Lot "1%' AND weight >= 12.5 AND weight < 600 AND day > '2026-10-20'
                      AND made <= '2026-11-01 12:00:00' ORDER BY weight DESC, l.lot_no LIMIT 40""")) {
                while (rows.next()) {
                    theirs.add(rows.getInt(1) + " " + rows.getObject(2) + " " + rows.getDouble(3));
                }
            }
            assertThat(theirs).hasSize(40).anyMatch(each -> each.contains("null"));
            assertThat(answer.rows())
                    .extracting(row -> row.get(0) + " " + row.get(1) + " " + ((Number) row.get(2)).doubleValue())
                    .isEqualTo(theirs);
            for (List<Object> row : answer.rows()) {
                double weight = ((Number) row.get(2)).doubleValue();
                Double moisture = row.get(1) == null ? null : ((Number) row.get(1)).doubleValue();
                // What is divided by zero, or by nothing, is empty.
                assertThat(row.get(3))
                        .isEqualTo(moisture == null || moisture == 0 ? null : (Object) (weight / moisture));
                assertThat(((Number) row.get(4)).doubleValue()).isEqualTo(weight > 500 ? weight * 2 : -weight);
            }
        }
    }

    private static void fillAnalyses() throws Exception {
        for (String url : List.of(
                beds.mariaDb.url("laboratory"),
                beds.postgreSql.url("laboratory"),
                "jdbc:sqlite:" + folder.resolve("files/laboratory.db"))) {
            try (Connection connection = DriverManager.getConnection(url)) {
                String table = url.contains("postgresql") ? "\"Lab 1\".analysis" : "analysis";
                for (int i = 0; i < 900; i++) {
                    if (i % 3 != 0) {
                        Beds.make(
                                connection,
                                "INSERT INTO " + table + " VALUES (" + i + ", " + (1000 + i) + ", " + (i % 4) + ")");
                    }
                }
            }
        }
    }

    /** Whoever writes SQL joins periods as they are, and is told where a mistake behind them is. */
    @ParameterizedTest
    @MethodSource("engines")
    void periodsAreATableOfWrittenSqlToo(Bed bed) throws Exception {
        String table = bed.schema().equals("Lab 1") ? "\"Lab 1\".lot" : "lot";
        String shifts = bed.schema().equals("Lab 1") ? ":shifts_local" : ":shifts";
        String sql = "SELECT p.name, MIN(p.start) AS begins, COUNT(*) AS lots FROM " + shifts + " p JOIN " + table
                + " l ON l.made >= p.begins AND l.made < p.ends WHERE l.weight >= 0 GROUP BY p.name, p.begins ORDER BY p.begins";
        Answer answer = ask(bed, QueryText.of(sql), List.of(Per.table(shifts.substring(1), DAYS, HERE)));
        assertThat(answer.cells("name").subList(0, 3)).containsExactly("Night", "Early", "Late");
        assertThat(answer.numbers("lots").stream().mapToDouble(each -> each).sum())
                // Whole shifts: two hours before the window, and six behind it.
                .isEqualTo((73 + 8) * 6.0);
        String wrong = sql.replace("l.weight >= 0", "l.nosuch >= 0");
        QueryProblem problem = catchThrowableOfType(
                QueryProblem.class,
                () -> ask(bed, QueryText.of(wrong), List.of(Per.table(shifts.substring(1), DAYS, HERE))));
        assertThat(wrong.substring(problem.from(), problem.to())).contains("nosuch");
    }

    private static Answer ask(Bed bed, QueryText text, List<Object> values) throws Exception {
        Answer answer = new Answer(new ArrayList<>(), new ArrayList<>());
        bed.reading().ask(text, values, Duration.ofSeconds(20), Long.MAX_VALUE, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                columns.forEach(each -> answer.columns().add(each.name()));
            }

            @Override
            public boolean row(List<Object> cells) {
                answer.rows().add(new ArrayList<>(cells));
                return true;
            }
        });
        return answer;
    }

    /** The hour that is there twice, by what a wall clock shows: its rows are there once, in the first of the two. */
    @Test
    void whatAClockShowsTwiceCountsOnce() throws Exception {
        ZonedDateTime twice = Instant.parse("2026-10-25T00:00:00Z").atZone(ZONE);
        for (Bed bed : engines().toList()) {
            Answer answer = ask(
                    bed,
                    lots(
                            bed,
                            "made",
                            Form.STAMP,
                            Optional.of(Per.HOUR),
                            List.of(new Shown(How.COUNT, Optional.empty(), "", "lots"))),
                    Map.of());
            List<Double> counts = answer.numbers("lots");
            assertThat(counts).as(bed.engine()).contains(12.0).hasSize(72);
            assertThat(counts.get((int) Duration.between(DAYS.from(), twice).toHours()))
                    .isEqualTo(12);
        }
    }
}
