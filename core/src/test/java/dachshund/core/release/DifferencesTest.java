package dachshund.core.release;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.release.Difference.Change;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class DifferencesTest {

    private static final SourceDefinition SOURCE = new SourceDefinition(
            "a0000001",
            "Pellet works",
            "",
            "opcua",
            Map.of("address", "opc.tcp://plant:4840"),
            Duration.ofSeconds(1),
            List.of(new TagInfo("out", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false)));
    private static final DestinationDefinition RECORDS = new DestinationDefinition(
            "b0000001",
            "Records",
            "",
            "mariadb",
            Map.of("host", "db", "port", "3306", "database", "records", "password", "sealed:1"));
    private static final Column OUTLET = Column.of(
            "outlet",
            SqlType.DOUBLE,
            new ColumnSource.FromTag(new TagRef("a0000001", "out"), ColumnSource.Aspect.VALUE));
    private static final RecorderDefinition DRYER = new RecorderDefinition(
            "c0000001",
            "Dryer log",
            "",
            List.of(new When.Every(Duration.ofSeconds(10))),
            Layout.proposed().plus(OUTLET),
            List.of(new Where("b0000001", "dryer_log", new Upkeep(true, false), false)));
    private static final List<Definition> LIVE = List.of(SOURCE, RECORDS, DRYER);

    private static List<String> changes(RecorderDefinition to) {
        List<Difference> differences = Differences.between(LIVE, List.of(SOURCE, RECORDS, to));
        assertThat(differences).singleElement().matches(difference -> difference.change() == Change.CHANGED);
        return differences.get(0).sentences();
    }

    @Test
    void equalSetsHaveNoDifference() {
        assertThat(Differences.between(LIVE, List.of(DRYER, RECORDS, SOURCE))).isEmpty();
    }

    @Test
    void newAndRemovedThingsAreToldInTheOrderOfTheWork() {
        List<Difference> all = Differences.between(List.of(), LIVE);
        assertThat(all)
                .extracting(difference -> difference.thing().name())
                .containsExactly("Pellet works", "Records", "Dryer log");
        assertThat(all.get(2).sentences())
                .containsExactly(
                        "Writes every 10 s, 4 columns: id, record_time, row_id, outlet.",
                        "Writes to table dryer_log in Records; may make the table, may not add columns.");
        assertThat(Differences.between(LIVE, List.of(SOURCE, RECORDS))
                        .get(0)
                        .sentences()
                        .get(0))
                .isEqualTo(
                        "Stops writing table dryer_log in Records. The rows that are there stay, and rows still held are sent.");
    }

    @Test
    void aChangeOfRateAndNameIsASentenceEach() {
        assertThat(changes(DRYER.withName("Dryer").withWhens(List.of(new When.Every(Duration.ofSeconds(5))))))
                .containsExactly("Name from Dryer log to Dryer.", "When from every 10 s to every 5 s.");
    }

    @Test
    void columnsAddedRenamedRetypedAndRemovedAreToldApart() {
        Layout layout = DRYER.layout();
        assertThat(changes(DRYER.withLayout(
                        layout.plus(Column.of("site", SqlType.text(20), new ColumnSource.Constant("Quillmoor"))))))
                .containsExactly("New column site (text(20)) from the constant \"Quillmoor\".");
        assertThat(changes(DRYER.withLayout(layout.with(3, OUTLET.named("outlet_c")))))
                .containsExactly(
                        "Writes Dryer / Outlet to column outlet_c instead of outlet; the old column and its values stay in the table.");
        assertThat(changes(DRYER.withLayout(layout.with(3, OUTLET.typed(SqlType.decimal(8, 2))))))
                .containsExactly(
                        "Type of column outlet from double to decimal(8,2); a table that is there keeps its own type.");
        assertThat(changes(DRYER.withLayout(layout.without(2))))
                .containsExactly("No longer writes column row_id; it and its values stay in the table.");
        assertThat(changes(DRYER.withLayout(layout.moved(3, 0))))
                .containsExactly("The order of the columns changes; a table that is there keeps its own order.");
    }

    @Test
    void aPasswordIsNeverShown() {
        DestinationDefinition other = new DestinationDefinition(
                "b0000001",
                "Records",
                "",
                "mariadb",
                Map.of("host", "db", "port", "3306", "database", "records", "password", "sealed:2"));
        assertThat(Differences.between(LIVE, List.of(SOURCE, other, DRYER))
                        .get(0)
                        .sentences())
                .containsExactly("Another password.");
    }
}
