package dachshund.core.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import org.junit.jupiter.api.Test;

/** Golden files hold what documents of schema 1 look like: they must stay readable for ever. */
class DefinitionCodecTest {

    private static final List<Definition> DEFINITIONS = List.of(
            new SourceDefinition("00000001", "Pellet works", "", "opcua", Map.of("address", "opc.tcp://127.0.0.1:4840"), Duration.ofSeconds(1),
                    List.of(new TagInfo("nsu=urn:quillmoor;s=Drying/Outlet", "Drying", "Outlet", DataKind.NUMBER, "°C", "Exhaust air", false))),
            new EquipmentClassDefinition("00000004", "Pellet line", "A press", List.of(new PropertyDesign("Output", DataKind.NUMBER, "t/h", true, ""))),
            new EquipmentDefinition("00000005", "PL1", "", "00000004", "Pelleting", Map.of(
                    "Output", new PropertySource.FromTag(new TagRef("00000001", "nsu=urn:quillmoor;s=PL1/Output"), "kg/h", "x * 2"))),
            new DestinationDefinition("00000002", "Records", "Production", "mariadb", Map.of("host", "127.0.0.1", "port", "3306", "password", "sealed:abc")),
            new RecorderDefinition("00000003", "Dryer log", "", List.of(new When.Every(Duration.ofMillis(500))),
                    Layout.proposed().plus(new Column("outlet", SqlType.decimal(8, 2),
                                    new ColumnSource.FromTag(new TagRef("00000001", "nsu=urn:quillmoor;s=Drying/Outlet"), ColumnSource.Aspect.VALUE), true, BadQuality.SET_ASIDE))
                            .plus(Column.of("site", SqlType.text(20), new ColumnSource.Constant("Quillmoor"))),
                    List.of(new RecorderDefinition.Where("00000002", "dryer_log", new Upkeep(true, false), true))));

    @Test
    void documentsAreReadBackEqual() {
        DEFINITIONS.forEach(definition -> assertThat(DefinitionCodec.read(DefinitionCodec.write(definition))).isEqualTo(definition));
    }

    @Test
    void goldenDocumentsAreStillUnderstoodAndStillWritten() throws Exception {
        ObjectMapper json = new ObjectMapper();
        for (Definition definition : DEFINITIONS) {
            String file = "/golden/" + definition.kind().name().toLowerCase(java.util.Locale.ROOT) + "-1.json";
            String golden = new String(getClass().getResourceAsStream(file).readAllBytes(), StandardCharsets.UTF_8);
            assertThat(DefinitionCodec.read(golden)).isEqualTo(definition);
            assertThat(json.readTree(DefinitionCodec.write(definition))).isEqualTo(json.readTree(golden));
        }
    }

    /** What a tag has beyond the common facts is written only where it is there, and comes back. */
    @Test
    void aTagWithAllItsFactsIsReadBackEqual() {
        TagInfo tag = new TagInfo("t1", "Energy", "Power", DataKind.NUMBER, "kW", "", true, Optional.of(new Range(0, 1200)), OptionalInt.of(1),
                Optional.of(Duration.ofMinutes(5)), List.of("energy"), Map.of("register", "30001"), Map.of("unit", "W"));
        SourceDefinition source = new SourceDefinition("00000006", "Meters", "", "modbus", Map.of("host", "gateway"), Duration.ofSeconds(1), List.of(tag), "Energy",
                List.of("meters"), true);
        assertThat(DefinitionCodec.read(DefinitionCodec.write(source))).isEqualTo(source);
        assertThat(DefinitionCodec.readTags(DefinitionCodec.writeTags(source.tags()))).isEqualTo(source.tags());
        assertThat(DefinitionCodec.write(DEFINITIONS.get(0))).doesNotContain("range", "labels", "writing", "folder");
    }

    @Test
    void whatIsNoneIsRefusedWithASentence() {
        assertThatThrownBy(() -> DefinitionCodec.read("{\"schemaVersion\": 99, \"is\": \"source\"}")).hasMessageContaining("another version");
        assertThatThrownBy(() -> DefinitionCodec.read("not json")).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> DefinitionCodec.read("{\"schemaVersion\": 1, \"is\": \"recorder\"}")).isInstanceOf(IllegalArgumentException.class);
    }
}
