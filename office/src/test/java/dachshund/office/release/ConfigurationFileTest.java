package dachshund.office.release;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

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
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.office.filing.Filed;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** A configuration that goes out, and comes in where other things are. */
class ConfigurationFileTest {

    private static final SourceDefinition WORKS = new SourceDefinition(
            "a0000001",
            "Pellet works",
            "",
            "opcua",
            Map.of("address", "opc.tcp://plant:4840", "password", "sealed:out"),
            Duration.ofSeconds(1),
            List.of(new TagInfo("out", "Dryer", "Outlet", DataKind.NUMBER, "°C", "", false)));
    private static final DestinationDefinition RECORDS = new DestinationDefinition(
            "b0000001",
            "Records",
            "",
            "mariadb",
            Map.of(
                    "host",
                    "db",
                    "port",
                    "3306",
                    "database",
                    "records",
                    "user",
                    "recorder",
                    "password",
                    "sealed:secret"));
    private static final RecorderDefinition DRYER = new RecorderDefinition(
            "c0000001",
            "Dryer log",
            "",
            List.of(new When.Every(Duration.ofSeconds(10))),
            Layout.proposed()
                    .plus(Column.of(
                            "outlet",
                            SqlType.DOUBLE,
                            new ColumnSource.FromTag(new TagRef("a0000001", "out"), ColumnSource.Aspect.VALUE))),
            List.of(new Where("b0000001", "dryer_log", new Upkeep(true, false), false)));
    private static final String FILE = ConfigurationFile.write(
            List.of(DRYER, RECORDS, WORKS),
            id -> id.equals(DRYER.id()) ? new Filed("Drying / Logs", List.of("quality", "shift 1")) : Filed.NOWHERE);

    /** As it is read where everything may be stored as it comes. */
    private static ConfigurationFile.Taken read(String text, List<? extends Definition> here) {
        return ConfigurationFile.read(text, List.copyOf(here), each -> each);
    }

    private static <T extends Definition> T only(ConfigurationFile.Taken taken, Class<T> type) {
        return taken.definitions().stream()
                .filter(type::isInstance)
                .map(type::cast)
                .findFirst()
                .orElseThrow();
    }

    @Test
    void noSecretGoesOutAndWhereNothingIsItHasToBeTypedAnew() {
        assertThat(FILE).doesNotContain("sealed:").contains("Dryer log");
        ConfigurationFile.Taken taken = read(FILE, List.of());
        assertThat(taken.definitions()).hasSize(3).contains(DRYER);
        assertThat(taken.secrets()).containsExactlyInAnyOrder("Records", "Pellet works");
        assertThat(only(taken, DestinationDefinition.class).settings())
                .containsEntry("password", "")
                .containsEntry("host", "db");
    }

    @Test
    void aThingOfTheSameNameIsTheSameThingAndItsSecretStays() {
        DestinationDefinition other = new DestinationDefinition(
                "f0000001", "records", "", "mariadb", Map.of("host", "elsewhere", "password", "sealed:here"));
        ConfigurationFile.Taken taken = read(FILE, List.of(other));
        assertThat(only(taken, DestinationDefinition.class).id()).isEqualTo("f0000001");
        assertThat(only(taken, DestinationDefinition.class).settings())
                .containsEntry("password", "sealed:here")
                .containsEntry("host", "db");
        assertThat(only(taken, RecorderDefinition.class).wheres().get(0).destination())
                .as("its recorders go there")
                .isEqualTo("f0000001");
        assertThat(taken.secrets()).containsExactly("Pellet works");
    }

    @Test
    void anIdThatIsSomethingElseHereIsGivenAnother() {
        RecorderDefinition another =
                new RecorderDefinition("b0000001", "Something else", "", DRYER.whens(), DRYER.layout(), List.of());
        ConfigurationFile.Taken taken = read(FILE, List.of(another));
        String id = only(taken, DestinationDefinition.class).id();
        assertThat(id).isNotEqualTo("b0000001");
        assertThat(only(taken, RecorderDefinition.class).wheres().get(0).destination())
                .isEqualTo(id);
    }

    @Test
    void whatIsNoConfigurationIsRefusedWithASentence() {
        assertThatThrownBy(() -> read("", List.of())).hasMessageContaining("no configuration that was exported here");
        assertThatThrownBy(() -> read("[1, 2]", List.of()))
                .hasMessageContaining("no configuration that was exported here");
        assertThatThrownBy(() -> read("{\"file\": \"dachshund configuration\"}", List.of()))
                .hasMessageContaining("no configuration that was exported here");
        assertThatThrownBy(() -> read("name,rate\nDryer,1 s", List.of())).hasMessageStartingWith("This is no JSON");
        assertThatThrownBy(() -> read(FILE.replace("c0000001", "a0000001"), List.of()))
                .hasMessageContaining("have the id a0000001");
        assertThatThrownBy(() -> read(FILE.replace("\"is\" : \"every\"", "\"is\" : \"now and then\""), List.of()))
                .hasMessageContaining("Definition 3 (Dryer log) cannot be read");
    }

    @Test
    void aFileThatIsCutOffAnywhereIsRefusedAndOneWithASlipIsNotTakenForAnother() {
        for (int at = 0; at < FILE.length(); at += 7) {
            String cut = FILE.substring(0, at);
            assertThatThrownBy(() -> read(cut, List.of()))
                    .as("cut at " + at)
                    .isInstanceOf(IllegalArgumentException.class)
                    .hasMessageNotContaining("java.");
            String slip = cut + "\"" + FILE.substring(at + 1);
            try {
                assertThat(read(slip, List.of()).definitions())
                        .as("a slip in a text at " + at)
                        .hasSize(3);
            } catch (IllegalArgumentException refused) {
                assertThat(refused.getMessage())
                        .as("a slip at " + at)
                        .isNotBlank()
                        .doesNotContain("java.");
            }
        }
    }

    @Test
    void whereThingsAreFiledTravelsWithThemUnderTheIdsTheyHaveHere() {
        assertThat(read(FILE, List.of()).filed())
                .isEqualTo(Map.of(DRYER.id(), new Filed("Drying / Logs", List.of("quality", "shift 1"))));
        RecorderDefinition here =
                new RecorderDefinition("c0000077", DRYER.name(), "", DRYER.whens(), DRYER.layout(), DRYER.wheres());
        assertThat(read(FILE, List.of(here)).filed()).containsOnlyKeys("c0000077");
    }

    @Test
    void aSourceOfBeforeBringsItsFolderAndLabels() {
        String before = FILE.replace(
                "\"link\" : \"opcua\"", "\"link\" : \"opcua\", \"folder\" : \"Energy\", \"labels\" : [\"a\", \"b\"]");
        assertThat(before).isNotEqualTo(FILE);
        assertThat(read(before, List.of()).filed()).containsEntry(WORKS.id(), new Filed("Energy", List.of("a", "b")));
        assertThat(only(read(before, List.of()), SourceDefinition.class).tags()).isEqualTo(WORKS.tags());
    }
}
