package dachshund.core.lineup;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** One design over PL1, PL2 and PL3; PL3 has no fines tag. */
class LineUpTest {

    private static TagRef tag(String machine, String name) {
        return new TagRef("s", machine + "/" + name);
    }

    private static Column value(String name, TagRef tag) {
        return Column.of(name, SqlType.DOUBLE, new ColumnSource.FromTag(tag, ColumnSource.Aspect.VALUE));
    }

    private static final RecorderDefinition PL1 = new RecorderDefinition(
            "00000001",
            "Pellet line 1",
            "",
            "",
            List.of(
                    new When.Every(Duration.ofSeconds(10)),
                    new When.OnIdentifier(tag("PL1", "Lot"), Duration.ZERO, Duration.ZERO)),
            Optional.of(new Condition("state = 1", Map.of("state", tag("PL1", "State")))),
            Layout.proposed()
                    .plus(value("output", tag("PL1", "Output")))
                    .plus(value("fines", tag("PL1", "Fines")))
                    .plus(Column.of("line", SqlType.text(10), new ColumnSource.Constant("1"))),
            List.of(new Where("d1", "pellet_line_1", new Upkeep(true, true), false)),
            Optional.empty());

    private static List<Alike.Placed> plant() {
        List<Alike.Placed> placed = new ArrayList<>();
        for (String machine : List.of("PL1", "PL2", "PL3")) {
            for (String name : List.of("Output", "Fines", "State", "Lot", "Power")) {
                if (!machine.equals("PL3") || !name.equals("Fines")) {
                    placed.add(new Alike.Placed(
                            tag(machine, name),
                            new TagInfo(
                                    machine + "/" + name,
                                    "Pelleting / " + machine,
                                    name,
                                    DataKind.NUMBER,
                                    "",
                                    "",
                                    false)));
                }
            }
        }
        return placed;
    }

    @Test
    void machinesWhoseTagPathsLookAlikeAreProposedWithWhatIsMissing() {
        List<Proposals.Proposed> proposed = Proposals.of(PL1, List.of(), plant());
        assertThat(proposed).extracting(Proposals.Proposed::machine).containsExactly("PL2", "PL3");
        assertThat(proposed).extracting(Proposals.Proposed::missing).containsExactly(List.of(), List.of("Fines"));
        assertThat(proposed.get(0).name()).isEqualTo("Pellet line 2");
        assertThat(proposed.get(0).tables()).containsEntry("d1", "pellet_line_2");
        RecorderDefinition second = proposed.get(0).recorder(PL1, "00000002");
        assertThat(second.layout().tags()).containsExactly(tag("PL2", "Output"), tag("PL2", "Fines"));
        assertThat(((When.OnIdentifier) second.whens().get(1)).tag()).isEqualTo(tag("PL2", "Lot"));
        assertThat(second.gate().orElseThrow().inputs()).containsEntry("state", tag("PL2", "State"));
    }

    @Test
    void equipmentOfTheSameClassIsProposedFirst() {
        List<EquipmentDefinition> equipment = List.of("PL1", "PL2", "PL3").stream()
                .map(machine -> new EquipmentDefinition(
                        "e" + machine,
                        machine,
                        "",
                        "class",
                        "",
                        Map.of(
                                "Output",
                                PropertySource.FromTag.of(tag(machine, "Output")),
                                "Fines",
                                machine.equals("PL3")
                                        ? new PropertySource.Constant("0")
                                        : PropertySource.FromTag.of(tag(machine, "Fines")),
                                "State",
                                PropertySource.FromTag.of(tag(machine, "State")),
                                "Lot",
                                PropertySource.FromTag.of(tag(machine, "Lot")))))
                .toList();
        List<Proposals.Proposed> proposed = Proposals.of(PL1, equipment, plant());
        assertThat(proposed).extracting(Proposals.Proposed::equipment).containsExactly("ePL2", "ePL3");
        assertThat(proposed.get(1).missing()).containsExactly("Fines");
        RecorderDefinition byProperty = PL1.withEquipment("ePL1")
                .withGate(Optional.empty())
                .withWhens(List.of(new When.Every(Duration.ofSeconds(5))))
                .withLayout(new Layout(List.of(Column.of(
                        "output",
                        SqlType.DOUBLE,
                        new ColumnSource.FromProperty("", "Output", ColumnSource.Aspect.VALUE)))));
        assertThat(Proposals.of(byProperty, equipment, plant()))
                .extracting(Proposals.Proposed::machine)
                .containsExactly("PL2", "PL3");
        assertThat(Proposals.of(byProperty, equipment, plant())
                        .get(0)
                        .recorder(byProperty, "2")
                        .equipment())
                .isEqualTo("ePL2");
    }

    @Test
    void equipmentThatMapsPartOfTheDesignAndFoldersThatLookAlikeAreFoundTogether() {
        List<EquipmentDefinition> equipment = List.of("PL1", "PL2", "Far off", "PL9").stream()
                .map(machine -> new EquipmentDefinition(
                        "e" + machine,
                        machine,
                        "",
                        "class",
                        "",
                        Map.of(
                                "Output",
                                PropertySource.FromTag.of(tag(machine, "Output")),
                                "Lot",
                                PropertySource.FromTag.of(tag(machine, "Lot")))))
                .toList();
        List<Alike.Placed> placed = new ArrayList<>(plant());
        for (String name : List.of("Output", "Lot", "State")) {
            placed.add(new Alike.Placed(
                    tag("PL9", name), new TagInfo("PL9/" + name, "Elsewhere", name, DataKind.NUMBER, "", "", false)));
        }
        List<Proposals.Proposed> proposed = Proposals.of(PL1, equipment, placed);
        assertThat(proposed).extracting(Proposals.Proposed::machine).containsExactly("PL2", "Far off", "PL9", "PL3");
        assertThat(proposed.get(2).missing())
                .as("the folder of what it maps has a State")
                .containsExactly("Fines");
        assertThat(proposed.get(0).missing())
                .as("its folder has what its properties lack")
                .isEmpty();
        assertThat(proposed.get(0).equipment()).isEqualTo("ePL2");
        assertThat(proposed.get(1).missing())
                .as("the original's own would be recorded in their place, so they are named")
                .containsExactly("Fines", "State");
        assertThat(proposed).extracting(Proposals.Proposed::key).doesNotHaveDuplicates();
        assertThat(proposed).allSatisfy(each -> assertThat(each.swaps())
                .extracting(Follows.Swap::from)
                .isSubsetOf(LineUp.tags(PL1))
                .isSortedAccordingTo(Comparator.comparing(LineUp.tags(PL1)::indexOf)));
    }

    @Test
    void aChangeOfTheOriginalIsTakenOverAndWhatALineHasOfItsOwnStays() {
        RecorderDefinition second = Proposals.of(PL1, List.of(), plant()).get(0).recorder(PL1, "00000002");
        Follows follows = second.follows().orElseThrow();
        RecorderDefinition own = LineUp.derived(
                PL1,
                second.withFollows(Optional.of(new Follows(
                        follows.original(),
                        follows.tags(),
                        Map.of("line", "two"),
                        Optional.of(Duration.ofSeconds(30))))));
        assertThat(LineUp.follows(PL1, own)).isTrue();
        assertThat(((When.Every) own.whens().get(0)).period()).isEqualTo(Duration.ofSeconds(30));
        assertThat(LineUp.constants(own.layout())).containsEntry("line", "two");
        RecorderDefinition changed = PL1.withWhens(List.of(new When.Every(Duration.ofSeconds(5))))
                .withLayout(PL1.layout().plus(value("power", tag("PL1", "Power"))));
        assertThat(LineUp.follows(changed, own)).isFalse();
        RecorderDefinition taken = LineUp.derived(changed, own);
        assertThat(taken.name()).isEqualTo("Pellet line 2");
        assertThat(taken.wheres().get(0).table()).isEqualTo("pellet_line_2");
        assertThat(((When.Every) taken.whens().get(0)).period())
                .as("its own rate")
                .isEqualTo(Duration.ofSeconds(30));
        assertThat(taken.layout().columns()).hasSize(7);
        assertThat(LineUp.follows(PL1, own.withName("Other").withEquipment("")))
                .as("names are a line's own")
                .isTrue();
        assertThat(LineUp.follows(PL1, own.withLayout(own.layout().without(3))))
                .as("edited by itself")
                .isFalse();
    }
}
