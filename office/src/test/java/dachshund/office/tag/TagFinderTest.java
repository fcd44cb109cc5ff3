package dachshund.office.tag;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.tag.TagTable;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.TagChanges;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.office.tag.TagFinder.Wanted;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** Tags are found by what they are measured in and by each piece of equipment that is mapped to them, whatever its name. */
class TagFinderTest {

    private static final SourceDefinition WORKS = new SourceDefinition(
            "aaaa0001",
            "Works",
            "",
            "simulated",
            Map.of(),
            Duration.ofSeconds(1),
            List.of(tag("power", "kW"), tag("speed", "rpm"), tag("steam", "")));

    private final TagFinder finder;

    TagFinderTest() {
        Definitions definitions = mock(Definitions.class);
        when(definitions.all(SourceDefinition.class)).thenReturn(List.of(WORKS));
        when(definitions.all(EquipmentDefinition.class))
                .thenReturn(List.of(
                        equipment("PL10", "power", "steam"),
                        equipment("PL1", "power"),
                        equipment("Hall 2, north", "power")));
        Filings filings = mock(Filings.class);
        when(filings.of(any())).thenReturn(Filed.NOWHERE);
        Engine engine = mock(Engine.class);
        PlantClock clock = () -> Instant.parse("2026-11-29T06:00:00Z");
        when(engine.clock()).thenReturn(clock);
        when(engine.tags()).thenReturn(new TagTable(clock));
        TagChanges changes = mock(TagChanges.class);
        when(changes.released(new TagRef("aaaa0001", "power")))
                .thenReturn(change("anna", "2026-11-29T05:30:00Z", false));
        when(changes.released(new TagRef("aaaa0001", "speed")))
                .thenReturn(change("anna", "2026-11-20T00:00:00Z", false));
        when(changes.drafted("aaaa0001"))
                .thenReturn(Map.of(
                        new TagRef("aaaa0001", "speed"),
                        change("bert", "2026-11-29T05:59:00Z", true).orElseThrow()));
        finder = new TagFinder(definitions, filings, engine, changes);
    }

    private static Optional<TagChanges.Change> change(String by, String at, boolean drafted) {
        return Optional.of(new TagChanges.Change(by, Instant.parse(at), drafted));
    }

    private List<String> changed(String within, String by) {
        return finder
                .find(new Wanted(
                        "", "", Optional.empty(), "", Optional.empty(), "", "", TagFinder.Design.read(within, by)))
                .stream()
                .map(each -> each.info().name())
                .toList();
    }

    @Test
    void byWhoChangedWhatTheyAreAndWhen() {
        assertThat(changed("", "")).containsExactly("power", "speed", "steam");
        assertThat(changed("1 h", "")).containsExactly("power", "speed");
        assertThat(changed("5 min", "")).as("what is drafted is newer").containsExactly("speed");
        assertThat(changed("", "anna")).containsExactly("power");
        assertThat(changed("drafted", "")).containsExactly("speed");
        assertThat(changed("drafted", "anna")).isEmpty();
        assertThatThrownBy(() -> changed("lately", "")).hasMessageContaining("Write a number and a unit");
    }

    private static TagInfo tag(String address, String unit) {
        return new TagInfo(address, "", address, DataKind.NUMBER, unit, "", false);
    }

    private static EquipmentDefinition equipment(String name, String... tags) {
        return new EquipmentDefinition(
                name,
                name,
                "",
                "",
                "",
                List.of(tags).stream()
                        .collect(Collectors.toMap(
                                each -> each,
                                each -> new PropertySource.FromTag(new TagRef("aaaa0001", each), "", ""))));
    }

    private List<String> found(String unit, String machine) {
        return finder
                .find(new Wanted("", "", Optional.empty(), "", Optional.empty(), unit, machine, TagFinder.Design.ANY))
                .stream()
                .map(each -> each.info().name())
                .toList();
    }

    @Test
    void eachPieceOfEquipmentHasItsTagsAlsoWhereANameIsPartOfAnother() {
        assertThat(found("", "PL1")).containsExactly("power");
        assertThat(found("", "PL10")).containsExactly("power", "steam");
        assertThat(found("", "Hall 2, north")).containsExactly("power");
        assertThat(found("", "PL")).isEmpty();
        assertThat(found("", "")).containsExactly("power", "speed", "steam");
        assertThat(finder.find(new TagRef("aaaa0001", "power")).map(FoundTag::equipment))
                .contains("Hall 2, north, PL1, PL10");
    }

    @Test
    void aUnitIsMeantAsItIsWritten() {
        assertThat(found("kW", "")).containsExactly("power");
        assertThat(found("kw", "")).isEmpty();
        assertThat(found("kW", "PL10")).containsExactly("power");
        assertThat(found("rpm", "PL10")).isEmpty();
        assertThat(finder.units("")).containsExactly("kW", "rpm");
        assertThat(finder.units("nobody")).isEmpty();
    }
}
