package dachshund.office.query;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowable;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.Period;
import dachshund.core.reader.Periods;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.window.Span;
import dachshund.office.heavy.Heavy;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rows of several queries under one SQL, in a process that sees nothing but these rows. */
class JoinedRowsTest {

    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Instant SIX = Instant.parse("2026-11-28T06:00:00Z");

    /** No limit that is meant here: the second process gives way to all others, and both cores may be busy with tests. */
    private static final Duration PATIENT = Duration.ofMinutes(3);

    @TempDir
    static Path folder;

    private static Heavy heavy;
    private static JoinedRows joins;

    @BeforeAll
    static void begin() {
        heavy = new Heavy(folder.resolve("heavy"), new Heavy.Limits(900_000_000L, PATIENT, Duration.ofMillis(500)));
        joins = new JoinedRows(heavy, LONDON);
    }

    @AfterAll
    static void end() {
        heavy.close();
    }

    private static TableShape.Column column(String name, Sort sort) {
        return new TableShape.Column(name, sort.words(), sort, true);
    }

    /** A part that gives these rows. */
    private record Fixed(List<TableShape.Column> columns, List<List<Object>> rows) implements Asked {
        @Override
        public Optional<Span> span() {
            return Optional.empty();
        }

        @Override
        public long give(Duration limit, long most, TableReading.Taker taker) {
            taker.columns(columns);
            long given = 0;
            for (List<Object> row : rows) {
                given++;
                if (given >= most || !taker.row(row)) {
                    break;
                }
            }
            return given;
        }
    }

    private static final Fixed LOTS = new Fixed(
            List.of(
                    column("lot", Sort.TEXT),
                    column("line", Sort.TEXT),
                    column("ended", Sort.STAMP),
                    column("kg", Sort.NUMBER)),
            List.of(
                    Arrays.asList("L1", "PL1", SIX, 1000L),
                    Arrays.asList("L2", "PL1", SIX.plusSeconds(3600), 1500L),
                    Arrays.asList("L3", "PL2", SIX.plusSeconds(7200), null)));
    private static final Fixed PRICES = new Fixed(
            List.of(column("since", Sort.STAMP), column("price", Sort.NUMBER)),
            List.of(
                    Arrays.asList(SIX.minusSeconds(60), new BigDecimal("0.25")),
                    Arrays.asList(SIX.plusSeconds(3600), new BigDecimal("0.3125"))));

    private static Map<String, Asked> parts(Object... named) {
        Map<String, Asked> parts = new LinkedHashMap<>();
        for (int i = 0; i < named.length; i += 2) {
            parts.put((String) named[i], (Asked) named[i + 1]);
        }
        return parts;
    }

    private static List<List<Object>> ask(String sql, Map<String, Asked> parts, Object... values) throws Exception {
        List<List<Object>> rows = new ArrayList<>();
        joins.give(QueryText.of(sql), parts, List.of(values), PATIENT, 1000, taker(rows));
        return rows;
    }

    private static TableReading.Taker taker(List<List<Object>> rows) {
        return new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> columns) {
                rows.add(columns.stream().<Object>map(TableShape.Column::name).toList());
            }

            @Override
            public boolean row(List<Object> cells) {
                rows.add(cells);
                return true;
            }
        };
    }

    private static QueryProblem refused(String sql, Map<String, Asked> parts, Object... values) {
        return catchThrowableOfType(QueryProblem.class, () -> ask(sql, parts, values));
    }

    /** Price to hour: the last row before. */
    @Test
    void rowsOfTwoDatabasesMeetAlsoByTheLastOneBefore() throws Exception {
        assertThat(ask(
                        "SELECT lot, kg * price AS cost, ended FROM lots ASOF JOIN prices ON lots.ended >= prices.since WHERE line = :line ORDER BY lot",
                        parts("lots", LOTS, "prices", PRICES),
                        "PL1"))
                .usingRecursiveComparison()
                .withEqualsForType((a, b) -> a.compareTo(b) == 0, BigDecimal.class)
                .isEqualTo(List.of(
                        List.of("lot", "cost", "ended"),
                        List.of("L1", new BigDecimal("250"), SIX),
                        List.of("L2", new BigDecimal("468.75"), SIX.plusSeconds(3600))));
    }

    @Test
    void periodsValuesAndCellsOfEveryKindArrive() throws Exception {
        Periods shifts = new Periods(
                Periods.Written.TIMES,
                List.of(
                        new Period("Early", SIX, SIX.plusSeconds(8 * 3600)),
                        new Period("Late", SIX.plusSeconds(8 * 3600), SIX.plusSeconds(16 * 3600))));
        assertThat(ask(
                        "SELECT p.name, COUNT(*) AS lots FROM lots JOIN :shifts p ON ended >= p.begins AND ended < p.ends GROUP BY p.name",
                        parts("lots", LOTS),
                        shifts))
                .isEqualTo(List.of(List.of("name", "lots"), List.of("Early", 3L)));
        assertThat(ask(
                                "SELECT :a AS a, :b AS b, :c AS c, :d AS d, :e AS e, NULL AS f, kg FROM lots WHERE kg IS NULL",
                                parts("lots", LOTS),
                                "it's",
                                new BigDecimal("1.50"),
                                LocalDate.of(2026, 11, 28),
                                SIX,
                                true)
                        .get(1))
                .isEqualTo(Arrays.asList(
                        "it's", new BigDecimal("1.50"), LocalDate.of(2026, 11, 28), SIX, true, null, null));
        // A part without a row has columns of its kinds all the same.
        assertThat(ask(
                        "SELECT lot, price FROM lots LEFT JOIN none ON ended >= since AND price > 1.5 WHERE lot = 'L1'",
                        parts("lots", LOTS, "none", new Fixed(PRICES.columns(), List.of()))))
                .isEqualTo(List.of(List.of("lot", "price"), Arrays.asList("L1", null)));
        // Days are those of the plant.
        assertThat(ask(
                                "SELECT CAST(date_trunc('day', TIMESTAMPTZ '2026-07-01 23:30:00+00') AS VARCHAR) AS day FROM lots LIMIT 1",
                                parts("lots", LOTS))
                        .get(1)
                        .toString())
                .contains("2026-07-02");
    }

    /** Of DuckDB itself: what no other engine has comes as its own text, and what Java has not, is told. */
    @Test
    void whatOnlyDuckDbHasComesAsItsOwnText() throws Exception {
        assertThat(ask(
                                "SELECT [1, NULL] l, {'a': 1, 'b': 'x'} s, MAP{'k': NULL} m, INTERVAL 3 DAY i, 'ab'::BLOB b, 'x'::ENUM('x', 'y') e, 'infinity'::TIMESTAMP t, '-infinity'::DATE d, '-infinity'::TIMESTAMPTZ z, 170141183460469231731687303715884105727::HUGEINT h, '10:00:00+02'::TIMETZ c, 'nan'::DOUBLE n, 3::TINYINT y FROM lots LIMIT 1",
                                parts("lots", LOTS))
                        .get(1))
                .extracting(String::valueOf)
                .containsExactly(
                        "[1, NULL]",
                        "{'a': 1, 'b': x}",
                        "{k=NULL}",
                        "3 days",
                        "0x6162",
                        "x",
                        "infinity",
                        "-infinity",
                        "-infinity",
                        "170141183460469231731687303715884105727",
                        "10:00+02:00",
                        "NaN",
                        "3");
        assertThat(refused("SELECT '24:00:00'::TIME AS late FROM lots", parts("lots", LOTS)))
                .hasMessage(
                        "A cell of late is a time that cannot be shown, such as 24:00:00. Let the query give it as text: CAST(late AS VARCHAR).");
        assertThat(ask("SELECT 1 AS one", parts("lots", LOTS))).hasSize(2);
    }

    @Test
    void itSeesNothingElse() throws Exception {
        Path secret = Files.writeString(folder.resolve("secret.csv"), "a\n42\n");
        for (String sql : List.of(
                "SELECT * FROM read_csv('" + secret + "')",
                "SELECT * FROM '" + secret + "'",
                "SELECT * FROM read_text('/etc/passwd')",
                "SELECT * FROM glob('/etc/*')",
                "SELECT getenv('HOME')")) {
            assertThat(catchThrowable(() -> ask(sql, parts("lots", LOTS))))
                    .as(sql)
                    .isInstanceOf(QueryProblem.class);
        }
        for (String sql :
                List.of("COPY lots TO '/tmp/x'", "SET memory_limit='9GB'", "ATTACH '/tmp/x.db'", "DROP TABLE lots")) {
            assertThat(catchThrowable(() -> ask(sql, parts("lots", LOTS))))
                    .as(sql)
                    .isInstanceOf(QueryProblem.class);
        }
        assertThat(ask("SELECT 1 AS one", parts("lots", LOTS))).hasSize(2);
    }

    @Test
    void aMistakeIsToldAtItsPlaceInTheEnginesWords() {
        QueryProblem unknown = refused("SELECT lot, nosuch\nFROM lots", parts("lots", LOTS));
        assertThat(unknown.getMessage()).contains("nosuch").doesNotContain("LINE 1");
        assertThat("SELECT lot, nosuch\nFROM lots".substring(unknown.from(), unknown.to()))
                .isEqualTo("nosuch");
        assertThat(refused("SELECT * FROM nowhere", parts("lots", LOTS)).getMessage())
                .contains("nowhere");
        assertThat(refused("SELECT lot FORM lots", parts("lots", LOTS)).getMessage())
                .contains("syntax error");
        assertThat(refused("SELECT kg / 'a' FROM lots", parts("lots", LOTS)).getMessage())
                .contains("'a'");
        assertThat(refused("SELECT 1", Map.of()).getMessage()).contains("Add the saved queries");
        assertThat(refused("SELECT 1", parts("my lots", LOTS)).getMessage()).contains("a word of letters");
        Fixed twice = new Fixed(List.of(column("a", Sort.NUMBER), column("A", Sort.NUMBER)), List.of(List.of(1L, 2L)));
        assertThat(refused("SELECT 1", parts("lots", twice)).getMessage()).contains("two columns are called A");
    }

    /** Each part is bounded, and the whole is. */
    @Test
    void whatIsTooMuchOrTakesTooLongIsBrokenOffAndTheNextOneIsAnswered() throws Exception {
        Asked endless = new Asked() {
            @Override
            public Optional<Span> span() {
                return Optional.empty();
            }

            @Override
            public long give(Duration limit, long most, TableReading.Taker taker) {
                taker.columns(List.of(column("n", Sort.NUMBER)));
                long given = 0;
                while (given < most && taker.row(List.of(given))) {
                    given++;
                }
                return given;
            }
        };
        assertThat(refused("SELECT COUNT(*) FROM many", parts("many", endless)).getMessage())
                .contains("more than 1000000 rows");
        Asked away = new Asked() {
            @Override
            public Optional<Span> span() {
                return Optional.empty();
            }

            @Override
            public long give(Duration limit, long most, TableReading.Taker taker) throws StoreProblem {
                throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "The database does not answer.", null);
            }
        };
        assertThat(catchThrowableOfType(StoreProblem.class, () -> ask("SELECT 1", parts("lots", LOTS, "gone", away)))
                        .getMessage())
                .isEqualTo("In the part gone: The database does not answer.");
        List<List<Object>> rows = new ArrayList<>();
        StoreProblem slow = catchThrowableOfType(
                StoreProblem.class,
                () -> joins.give(
                        QueryText.of(
                                "SELECT COUNT(*) FROM range(100000) a, range(100000) b, range(100000) c WHERE a.range + b.range = c.range"),
                        parts("lots", LOTS),
                        List.of(),
                        Duration.ofSeconds(2),
                        10,
                        taker(rows)));
        assertThat(slow.getMessage()).contains("took too long");
        assertThat(ask("SELECT lot FROM lots WHERE lot = 'L2'", parts("lots", LOTS))
                        .get(1))
                .containsExactly("L2");
        // Who wants ten of a million is given ten.
        rows.clear();
        assertThat(joins.give(
                        QueryText.of("SELECT range AS n FROM range(1000000)"),
                        parts("lots", LOTS),
                        List.of(),
                        PATIENT,
                        10,
                        taker(rows)))
                .isEqualTo(10);
        assertThat(rows).hasSize(11);
    }
}
