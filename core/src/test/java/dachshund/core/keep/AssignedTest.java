package dachshund.core.keep;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** Which tags rules mean, and that a tag is kept by one of them. */
class AssignedTest {

    private static final SourceDefinition WORKS =
            source("50000001", "Works", "Drying / Drum|Outlet", "Drying|Feed", "Dryings|Rate");
    private static final SourceDefinition METERS = source("50000002", "Meters", "|Mill 1");
    private static final EquipmentDefinition MACHINE = new EquipmentDefinition(
            "e0000001",
            "PL1",
            "",
            "c0000001",
            "",
            Map.of("Feed", PropertySource.FromTag.of(new TagRef("50000001", "Feed"))));

    private static SourceDefinition source(String id, String name, String... tags) {
        return new SourceDefinition(
                id,
                name,
                "",
                "kept",
                Map.of(),
                Duration.ofSeconds(1),
                List.of(tags).stream()
                        .map(each -> each.split("\\|"))
                        .map(each -> new TagInfo(each[1], each[0], each[1], DataKind.NUMBER, "", "Of steel", true))
                        .toList());
    }

    private static KeepingRuleDefinition rule(String id, String name, Selection which) {
        return new KeepingRuleDefinition(id, name, "", which, Density.CHANGES, 30, 0);
    }

    private static List<String> kept(Selection which) {
        return Assigned.of(List.of(rule("1", "Rule", which)), List.of(METERS, WORKS), List.of(MACHINE)).of("1").stream()
                .map(each -> each.info().name())
                .toList();
    }

    @Test
    void tagsAreMeantByAllThatIsNamed() {
        assertThat(kept(Selection.source("50000001"))).containsExactly("Outlet", "Feed", "Rate");
        assertThat(kept(new Selection(List.of(), "", "drying", "", ""))).containsExactly("Outlet", "Feed");
        assertThat(kept(new Selection(List.of(), "50000001", "Drying / Drum", "", "")))
                .containsExactly("Outlet");
        assertThat(kept(new Selection(List.of(), "", "", "c0000001", ""))).containsExactly("Feed");
        assertThat(kept(new Selection(List.of(), "", "", "", "STEEL mill"))).containsExactly("Mill 1");
        assertThat(kept(new Selection(List.of(), "", "", "", "pl1"))).containsExactly("Feed");
        assertThat(kept(new Selection(List.of(), "50000002", "", "", "drum"))).isEmpty();
        assertThat(kept(new Selection(List.of(), "", "", "", ""))).isEmpty();
        assertThat(kept(new Selection(List.of(new TagRef("50000002", "Mill 1")), "", "", "c0000001", "")))
                .containsExactly("Mill 1", "Feed");
    }

    @Test
    void aTagIsKeptOnceByTheRuleThatTicksItElseByTheFirstByName() {
        TagRef outlet = new TagRef("50000001", "Outlet");
        Assigned assigned = Assigned.of(
                List.of(
                        rule("1", "B", Selection.source("50000001")),
                        rule("2", "A", new Selection(List.of(), "", "Drying", "", "")),
                        rule("3", "Z", Selection.ticked(List.of(outlet, new TagRef("50000001", "Gone"))))),
                List.of(WORKS),
                List.of());
        assertThat(assigned.ruleOf(outlet)).isEqualTo("3");
        assertThat(assigned.of("2")).extracting(each -> each.info().name()).containsExactly("Feed");
        assertThat(assigned.of("1")).extracting(each -> each.info().name()).containsExactly("Rate");
        assertThat(assigned.keptByOthers("1")).isEqualTo(Map.of("2", 1, "3", 1));
        assertThat(assigned.keptByOthers("3")).isEmpty();
        assertThat(assigned.missing("3")).containsExactly(new TagRef("50000001", "Gone"));
        assertThat(assigned.tags()).hasSize(3);
    }

    @Test
    void aDeadbandIsInTheTagsUnitOrInPercentOfItsRange() {
        Optional<Range> range = Optional.of(new Range(-50, 150));
        assertThat(new Density(Optional.empty(), 2, false).deadbandOf(range)).isEqualTo(2);
        assertThat(new Density(Optional.empty(), 2, true).deadbandOf(range)).isEqualTo(4);
        assertThat(new Density(Optional.empty(), 2, true).deadbandOf(Optional.empty()))
                .isZero();
    }

    @Test
    void whatCannotBeIsASentence() {
        assertThatThrownBy(() -> new Density(Optional.empty(), -1, false)).hasMessageContaining("0 or more");
        assertThatThrownBy(() -> new Density(Optional.empty(), Double.NaN, false))
                .hasMessageContaining("0 or more");
        assertThatThrownBy(() -> new Density(Optional.empty(), 101, true)).hasMessageContaining("0 to 100 %");
        assertThatThrownBy(() -> Density.every(Duration.ZERO)).hasMessageContaining("1 ms to one day");
        assertThatThrownBy(() -> new Density(Optional.of(Duration.ofSeconds(1)), 1, false))
                .hasMessageContaining("not by both");
        assertThatThrownBy(() -> new KeepingRuleDefinition("1", "R", "", Selection.source("s"), Density.CHANGES, -1, 0))
                .hasMessageContaining("days");
    }
}
