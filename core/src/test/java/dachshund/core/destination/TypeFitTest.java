package dachshund.core.destination;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.core.sql.StandardDialect;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What fits a table that is there, and where a row goes. */
class TypeFitTest {

    @ParameterizedTest
    @CsvSource(
            textBlock =
                    """
            integer       | bigint        | fits
            bigint        | integer       | advice
            integer       | double        | fits
            integer       | decimal(12,2) | fits
            bigint        | decimal(12,2) | advice
            double        | integer       | not
            double        | decimal(12,2) | not
            double        | text(80)      | not
            decimal(8,2)  | decimal(10,3) | fits
            decimal(8,3)  | decimal(8,2)  | not
            decimal(8,2)  | decimal(6,2)  | advice
            decimal(8,2)  | double        | advice
            text(80)      | text(40)      | advice
            text(40)      | text(80)      | fits
            text(40)      | double        | not
            boolean       | smallint      | fits
            timestamp(6)  | timestamp(3)  | advice
            timestamp(3)  | date          | not
            json          | text(10000)   | fits
            json          | text(200)     | not
            uuid          | text(36)      | not
            """,
            delimiter = '|')
    void pairs(String wanted, String there, String verdict) {
        TypeFit fit = TypeFit.of(SqlType.read(wanted.strip()), SqlType.read(there.strip()));
        assertThat(fit.fits() ? fit.advice().isPresent() ? "advice" : "fits" : "not")
                .isEqualTo(verdict.strip());
    }

    private static Column constant(String name, SqlType type) {
        return Column.of(name, type, new ColumnSource.Constant("x"));
    }

    private static final Layout LAYOUT =
            new Layout(List.of(constant("outlet", SqlType.DOUBLE), constant("lot", SqlType.text(20))));

    /** Of 16 digits a column of single precision keeps about 7 (IEEE 754), and no engine says so when it is written. */
    @org.junit.jupiter.api.Test
    void aNumberIntoAColumnOfSinglePrecisionIsAConflictAndSaidBeforeTheRelease() {
        Layout layout = new Layout(
                List.of(Column.of("outlet", SqlType.DOUBLE, new dachshund.core.layout.ColumnSource.Constant("1"))));
        TablePlan plan = TablePlan.of(
                new StandardDialect(),
                "t",
                layout,
                new WriteMode.Insert(),
                Upkeep.NONE,
                Optional.of(table("outlet", "real")));
        assertThat(plan.problems()).anyMatch(problem -> problem.contains("keeps about 7 digits"));
    }

    private static TableDescription table(String... namesAndTypes) {
        List<TableDescription.TableColumn> columns = new java.util.ArrayList<>();
        for (int i = 0; i < namesAndTypes.length; i += 2) {
            columns.add(new TableDescription.TableColumn(namesAndTypes[i], namesAndTypes[i + 1], false, false));
        }
        return new TableDescription("t", columns, List.of(List.of("lot")), true);
    }

    @Test
    void aConflictIsExplainedWithAWayOut() {
        TablePlan plan = TablePlan.of(
                new StandardDialect(),
                "t",
                LAYOUT,
                new WriteMode.Insert(),
                Upkeep.NONE,
                Optional.of(table("outlet", "integer", "lot", "varchar(20)")));
        assertThat(plan.conflicts()).containsExactly("outlet");
        assertThat(plan.problems())
                .singleElement()
                .asString()
                .contains("outlet of t is integer", "writes double there", "Make it integer here");
        TablePlan shorter = TablePlan.of(
                new StandardDialect(),
                "t",
                LAYOUT,
                new WriteMode.Insert(),
                Upkeep.NONE,
                Optional.of(table("outlet", "double precision", "lot", "character varying(10)")));
        assertThat(shorter.problems()).isEmpty();
        assertThat(shorter.advice()).singleElement().asString().contains("holds 10 characters");
    }

    @Test
    void aColumnThatVanishesWhileRunningIsLeftOutAndNotAddedAgain() {
        Optional<TableDescription> found = Optional.of(table("lot", "varchar(20)"));
        assertThat(TablePlan.of(
                                new StandardDialect(),
                                "t",
                                LAYOUT,
                                new WriteMode.Insert(),
                                new Upkeep(true, true),
                                found)
                        .statements())
                .hasSize(1);
        TablePlan running = TablePlan.whileRunning(
                new StandardDialect(), "t", LAYOUT, new WriteMode.Insert(), new Upkeep(true, true), found);
        assertThat(running.leftOut()).containsExactly("outlet");
        assertThat(running.statements()).isEmpty();
        assertThat(running.problems()).isEmpty();
    }

    @Test
    void updatesWantAKeyThatTheTableHas() {
        Layout keyed = LAYOUT.withKeys(List.of("outlet"), List.of());
        Optional<TableDescription> found = Optional.of(table("outlet", "double precision", "lot", "varchar(20)"));
        assertThat(TablePlan.of(new StandardDialect(), "t", LAYOUT, new WriteMode.Update(), Upkeep.NONE, found)
                        .problems())
                .singleElement()
                .asString()
                .contains("needs a key");
        assertThat(TablePlan.of(new StandardDialect(), "t", keyed, new WriteMode.InsertOrUpdate(), Upkeep.NONE, found)
                        .problems())
                .singleElement()
                .asString()
                .contains("no unique key of outlet");
        assertThat(TablePlan.of(
                                new StandardDialect(),
                                "t",
                                LAYOUT.withKeys(List.of("LOT"), List.of()),
                                new WriteMode.InsertOrUpdate(),
                                Upkeep.NONE,
                                found)
                        .problems())
                .isEmpty();
    }

    @Test
    void namesAreMadeOfTheRowAndMadeSafe() {
        Row row =
                new Row(new RowId("0a1b2c", "deadbeef", 1, 1, 0), Instant.parse("2026-06-30T23:30:00Z"), new Object[] {
                    1.5, "../PL1/..\\é;"
                });
        RowFacts facts = RowFacts.of("Dryer log", ZoneId.of("Europe/London"));
        assertThat(new NamePattern("dryer_{yyyy}-{MM}-{dd}_{HH}.csv").of(row, LAYOUT, facts))
                .as("plant time")
                .isEqualTo("dryer_2026-07-01_00.csv");
        assertThat(new NamePattern("{recorder} {lot} {shift}").of(row, LAYOUT, facts))
                .isEqualTo("Dryer log _PL1_.._é_ none");
        assertThat(new NamePattern("t").dynamic()).isFalse();
        assertThat(new NamePattern("dryer_{yyyy}.csv").mayBe("dryer_2026.csv")).isTrue();
        assertThat(new NamePattern("dryer_{yyyy}.csv").mayBe("dryer_2026xcsv")).isFalse();
        assertThat(new NamePattern("dryer_{yyyy}.csv").mayBe("dryer_.csv")).isFalse();
        assertThat(new NamePattern("t").mayBe("t")).isTrue();
        assertThat(new NamePattern("t").mayBe("tt")).isFalse();
        assertThat(new NamePattern("").mayBe("")).isTrue();
        assertThat(new PlacePattern(new Place("", "a_{lot}")).mayBe(new Place("", "a_1")))
                .isTrue();
        assertThat(new PlacePattern(new Place("", "a_{lot}")).mayBe(new Place("b", "a_1")))
                .isFalse();
        assertThat(new NamePattern("{who}").problem(LAYOUT)).get().asString().contains("{who} stands for nothing");
        assertThat(new NamePattern("a{lot").problem(LAYOUT)).isPresent();
    }

    @Test
    void aDatabaseIsNamedAsATableIsAndBothTravelAsOneText() {
        Row row =
                new Row(new RowId("0a1b2c", "deadbeef", 1, 1, 0), Instant.parse("2026-06-30T23:30:00Z"), new Object[] {
                    1.5, "../PL1"
                });
        PlacePattern pattern = new PlacePattern(new Place("plant_{lot}", "t"));
        assertThat(pattern.dynamic()).isTrue();
        Place place = pattern.of(row, LAYOUT, RowFacts.of("Dryer log", ZoneId.of("Europe/London")));
        assertThat(place).isEqualTo(new Place("plant__PL1", "t"));
        assertThat(Place.read(place.text())).isEqualTo(place);
        assertThat(Place.read("t/a")).isEqualTo(new Place("", "t/a"));
        assertThat(new PlacePattern(new Place("x{who}", "t")).databaseProblem(LAYOUT, new StandardDialect()))
                .get()
                .asString()
                .contains("{who} stands for nothing");
        assertThat(new PlacePattern(new Place("", "t")).databaseProblem(LAYOUT, new StandardDialect()))
                .isEmpty();
        assertThat(new PlacePattern(new Place("x".repeat(129), "t")).databaseProblem(LAYOUT, new StandardDialect()))
                .get()
                .asString()
                .contains("up to 128 characters");
    }
}
