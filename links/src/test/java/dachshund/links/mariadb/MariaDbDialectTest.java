package dachshund.links.mariadb;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableDescription.TableColumn;
import dachshund.core.destination.TablePlan;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class MariaDbDialectTest {

    private final Dialect dialect = new MariaDbDialect();

    private static Column tag(String name, SqlType type, boolean required) {
        return new Column(
                name,
                type,
                new ColumnSource.FromTag(new TagRef("s", name), ColumnSource.Aspect.VALUE),
                required,
                BadQuality.WRITE_NULL);
    }

    private static final Layout DRYER = Layout.proposed()
            .plus(tag("outlet `C`", SqlType.decimal(8, 2), false))
            .plus(tag("select", SqlType.text(80), true));

    @Test
    void aLayoutBecomesATable() {
        assertThat(dialect.createTable("dryer log", DRYER, false))
                .containsExactly(
                        """
                CREATE TABLE `dryer log` (
                  `id` BIGINT NOT NULL AUTO_INCREMENT,
                  `record_time` DATETIME(3) NULL,
                  `row_id` CHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                  `outlet ``C``` DECIMAL(8,2) NULL,
                  `select` VARCHAR(80) NOT NULL,
                  PRIMARY KEY (`id`),
                  UNIQUE (`row_id`)
                ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4""");
        assertThat(dialect.insert("dryer log", DRYER))
                .isEqualTo(
                        "INSERT INTO `dryer log` (`record_time`, `row_id`, `outlet ``C```, `select`) VALUES (?, ?, ?, ?)");
    }

    @Test
    void withoutAnAutoNumberTheRowIdIsTheKey() {
        Layout layout =
                new Layout(List.of(DRYER.columns().get(2), DRYER.columns().get(3)));
        assertThat(dialect.createTable("t", layout, true).get(0))
                .startsWith("CREATE TEMPORARY TABLE `t`")
                .contains("PRIMARY KEY (`row_id`)")
                .doesNotContain("UNIQUE");
    }

    @Test
    void namesThatCannotBeAreRefusedAndNamesThatAnnoyAreHinted() {
        assertThat(dialect.identifierProblem("")).isPresent();
        assertThat(dialect.identifierProblem("x".repeat(65)))
                .get()
                .asString()
                .contains("64 characters; this one has 65");
        assertThat(dialect.identifierProblem("ends with ")).isPresent();
        assertThat(dialect.identifierProblem("dog 🐕")).isPresent();
        assertThat(dialect.identifierProblem("it's \"fine\" `here`")).isEmpty();
        assertThat(dialect.identifierHint("Select")).get().asString().contains("reserved word");
        assertThat(dialect.identifierHint("inlet temp")).get().asString().contains("spaces");
        assertThat(dialect.identifierHint("2026")).get().asString().contains("digits");
        assertThat(dialect.identifierHint("outlet_c")).isEmpty();
    }

    @Test
    void thePlanNamesWhatIsMissingAndWhatUpkeepMayNotDo() {
        TableDescription found = new TableDescription(
                "t",
                List.of(
                        new TableColumn("ID", "bigint(20)", false, true),
                        new TableColumn("record_time", "datetime(3)", false, false),
                        new TableColumn("row_id", "char(40)", true, false),
                        new TableColumn("operator", "varchar(20)", true, false)),
                List.of(List.of("ID"), List.of("row_id")),
                true);
        TablePlan plan =
                TablePlan.of(dialect, "t", DRYER, new WriteMode.Insert(), new Upkeep(true, false), Optional.of(found));
        assertThat(plan.statements())
                .containsExactly(
                        "ALTER TABLE `t` ADD COLUMN `outlet ``C``` DECIMAL(8,2) NULL",
                        "ALTER TABLE `t` ADD COLUMN `select` VARCHAR(80) NULL");
        assertThat(plan.problems())
                .containsExactly(
                        "The table t has no column outlet `C` and this recorder may not add it.",
                        "The table t has no column select and this recorder may not add it.",
                        "The table t demands a value for its column operator (varchar(20)), which this layout does not have.");
        assertThat(TablePlan.of(dialect, "t", DRYER, new WriteMode.Insert(), Upkeep.NONE, Optional.empty())
                        .problems())
                .hasSize(1);
        assertThat(TablePlan.of(dialect, "t", DRYER, new WriteMode.Insert(), new Upkeep(true, false), Optional.empty())
                        .problems())
                .isEmpty();
    }
}
