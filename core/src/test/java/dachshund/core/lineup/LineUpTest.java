package dachshund.core.lineup;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Line;
import dachshund.core.layout.Shape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.release.LayoutCheck;
import dachshund.core.sql.StandardDialect;
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
import java.util.Set;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;

/** One design over PL1, PL2 and PL3; PL3 has no fines tag. */
class LineUpTest {

    private static final RecorderLines LINES = new RecorderLines();

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
        List<Proposals.Proposed> proposed = Proposals.of(LINES, PL1, List.of(), plant());
        assertThat(proposed).extracting(Proposals.Proposed::machine).containsExactly("PL2", "PL3");
        assertThat(proposed).extracting(Proposals.Proposed::missing).containsExactly(List.of(), List.of("Fines"));
        assertThat(proposed.get(0).name()).isEqualTo("Pellet line 2");
        assertThat(proposed.get(0).tables()).containsEntry("d1", "pellet_line_2");
        RecorderDefinition second = proposed.get(0).line(LINES, PL1, "00000002");
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
        List<Proposals.Proposed> proposed = Proposals.of(LINES, PL1, equipment, plant());
        assertThat(proposed).extracting(Proposals.Proposed::equipment).containsExactly("ePL2", "ePL3");
        assertThat(proposed.get(1).missing()).containsExactly("Fines");
        RecorderDefinition byProperty = PL1.withEquipment("ePL1")
                .withGate(Optional.empty())
                .withWhens(List.of(new When.Every(Duration.ofSeconds(5))))
                .withLayout(new Layout(List.of(Column.of(
                        "output",
                        SqlType.DOUBLE,
                        new ColumnSource.FromProperty("", "Output", ColumnSource.Aspect.VALUE)))));
        assertThat(Proposals.of(LINES, byProperty, equipment, plant()))
                .extracting(Proposals.Proposed::machine)
                .containsExactly("PL2", "PL3");
        assertThat(Proposals.of(LINES, byProperty, equipment, plant())
                        .get(0)
                        .line(LINES, byProperty, "2")
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
        List<Proposals.Proposed> proposed = Proposals.of(LINES, PL1, equipment, placed);
        assertThat(proposed).extracting(Proposals.Proposed::machine).containsExactly("PL2", "Far off", "PL9", "PL3");
        assertThat(proposed.get(2).missing())
                .as("the folder of what it maps has a State")
                .containsExactly("Fines");
        assertThat(proposed.get(0).missing())
                .as("its folder has what its properties lack")
                .isEmpty();
        assertThat(proposed.get(0).equipment()).isEqualTo("ePL2");
        assertThat(proposed.get(1).missing()).as("gaps").containsExactly("Fines", "State");
        assertThat(proposed).extracting(Proposals.Proposed::key).doesNotHaveDuplicates();
        assertThat(proposed).allSatisfy(each -> assertThat(each.swaps())
                .extracting(Follows.Swap::from)
                .isSubsetOf(PL1.everyTag())
                .isSortedAccordingTo(Comparator.comparing(PL1.everyTag()::indexOf)));
    }

    /** One tag stands in a folder among others that all have such a tag, such as a meter's: these are no machines of its kind. */
    @Test
    void aFolderThatSharesOneTagIsNoMachineThatFits() {
        List<Alike.Placed> placed = new ArrayList<>();
        for (String meter : List.of("Line 1", "Offices", "Mill")) {
            placed.add(new Alike.Placed(
                    new TagRef("meters", meter + "/Energy"),
                    new TagInfo(meter + "/Energy", "Meters / " + meter, "Energy", DataKind.NUMBER, "", "", false)));
            placed.add(new Alike.Placed(
                    new TagRef("meters", meter + "/Power"),
                    new TagInfo(meter + "/Power", "Meters / " + meter, "Power", DataKind.NUMBER, "", "", false)));
        }
        placed.addAll(plant());
        RecorderDefinition metered =
                PL1.withLayout(PL1.layout().plus(value("kwh", new TagRef("meters", "Line 1/Energy"))));
        List<Proposals.Proposed> proposed = Proposals.of(LINES, metered, List.of(), placed);
        assertThat(proposed).extracting(Proposals.Proposed::machine).containsExactly("PL2", "PL3");
        assertThat(proposed.get(0).missing()).containsExactly("Energy");
    }

    private static RecorderDefinition line(String machine) {
        return Proposals.of(LINES, PL1, List.of(), plant()).stream()
                .filter(each -> each.machine().equals(machine))
                .findFirst()
                .orElseThrow()
                .line(LINES, PL1, "0000000" + machine.charAt(2));
    }

    private static RecorderDefinition with(
            RecorderDefinition line, UnaryOperator<Follows<RecorderDefinition.Made>> change) {
        return new LineEdits<>(LINES, PL1, line.withFollows(line.follows().map(change))).brought(Set.of());
    }

    @Test
    void aChangeOfTheOriginalIsTakenOverAndWhatALineHasOfItsOwnStays() {
        RecorderDefinition own = with(
                line("PL2"),
                follows -> new Follows<>(
                        follows.original(),
                        follows.tags(),
                        Map.of("line", "two"),
                        Optional.of(Duration.ofSeconds(30)),
                        List.of(),
                        List.of(),
                        follows.names(),
                        follows.made()));
        assertThat(new LineEdits<>(LINES, PL1, own).behind()).isFalse();
        assertThat(new LineEdits<>(LINES, PL1, own).edits()).isEmpty();
        assertThat(((When.Every) own.whens().get(0)).period()).isEqualTo(Duration.ofSeconds(30));
        assertThat(LINES.constants(own)).containsEntry("line", "two");
        RecorderDefinition changed = PL1.withWhens(List.of(new When.Every(Duration.ofSeconds(5))))
                .withLayout(PL1.layout().plus(value("fuel", tag("PL1", "Power"))));
        assertThat(new LineEdits<>(LINES, changed, own).behind()).isTrue();
        assertThat(new LineEdits<>(LINES, changed, own).edits())
                .as("behind is not edited")
                .isEmpty();
        RecorderDefinition taken = new LineEdits<>(LINES, changed, own).brought(Set.of());
        assertThat(taken.name()).isEqualTo("Pellet line 2");
        assertThat(taken.wheres().get(0).table()).isEqualTo("pellet_line_2");
        assertThat(((When.Every) taken.whens().get(0)).period())
                .as("its own rate")
                .isEqualTo(Duration.ofSeconds(30));
        assertThat(taken.layout().columns()).hasSize(7);
        assertThat(new LineEdits<>(LINES, changed, taken).behind()).isFalse();
        RecorderDefinition renamed = own.withName("Other")
                .withEquipment("")
                .withWheres(List.of(own.wheres().get(0).withTable("another")));
        assertThat(new LineEdits<>(LINES, PL1, renamed).behind())
                .as("names and tables are a line's own")
                .isFalse();
        assertThat(new LineEdits<>(LINES, PL1, renamed).edits()).isEmpty();
    }

    @Test
    void whatAMachineLacksIsAGapThatBlocksAndNeverTheOriginalsOwn() {
        RecorderDefinition third = line("PL3");
        assertThat(new LineEdits<>(LINES, PL1, third).gaps()).containsExactly(tag("PL1", "Fines"));
        assertThat(third.everyTag()).noneMatch(each -> each.address().startsWith("PL1/") && !each.isGap());
        assertThat(LayoutCheck.remarks(
                        third.layout(),
                        new StandardDialect(),
                        each -> plant().stream()
                                .filter(placed -> placed.ref().equals(each))
                                .map(Alike.Placed::info)
                                .findFirst(),
                        (equipment, property) -> Optional.empty(),
                        ""))
                .filteredOn(LayoutCheck.Remark::blocking)
                .extracting(LayoutCheck.Remark::sentence)
                .singleElement()
                .asString()
                .contains("Column fines has no tag of this machine");
        RecorderDefinition without =
                with(third, follows -> follows.withChoices(List.of(), List.of(tag("PL1", "Fines"))));
        assertThat(without.layout().column("fines")).isEmpty();
        assertThat(new LineEdits<>(LINES, PL1, without).gaps()).isEmpty();
        RecorderDefinition shared =
                with(third, follows -> follows.withChoices(List.of(tag("PL1", "Fines")), List.of()));
        assertThat(shared.layout().tags()).contains(tag("PL1", "Fines"));
        // A tag that the original gets later is no line's by itself either.
        RecorderDefinition more = PL1.withLayout(PL1.layout().plus(value("hall", tag("Hall", "Humidity"))));
        RecorderDefinition brought = new LineEdits<>(LINES, more, line("PL2")).brought(Set.of());
        assertThat(brought.layout().tags()).contains(TagRef.gapFor(tag("Hall", "Humidity")));
    }

    @Test
    void rowsOfALineNameItsOwnEquipment() {
        RecorderDefinition rows = PL1.withLayout(Layout.proposed(Shape.ROW_PER_TAG)
                .withLines(List.of(
                        new Line(tag("PL1", "Output"), "PL1 output", "PL1", "t/h"),
                        new Line(tag("PL1", "Fines"), "Fines", "Sieve house", "%"))));
        RecorderDefinition second =
                Proposals.of(LINES, rows, List.of(), plant()).get(0).line(LINES, rows, "00000002");
        assertThat(second.layout().lines())
                .containsExactly(
                        new Line(tag("PL2", "Output"), "PL2 output", "PL2", "t/h"),
                        new Line(tag("PL2", "Fines"), "Fines", "", "%"));
    }

    @Test
    void aDestinationBroughtAlongHasATableOfEachLinesOwn() {
        RecorderDefinition both = PL1.withWheres(
                List.of(PL1.wheres().get(0), new Where("files", "pl1_{shift date}", new Upkeep(true, true), false)));
        List<String> files = new ArrayList<>();
        for (String machine : List.of("PL2", "PL3")) {
            files.add(new LineEdits<>(LINES, both, line(machine))
                    .brought(Set.of())
                    .wheres()
                    .get(1)
                    .table());
        }
        assertThat(files).containsExactly("pl2_{shift date}", "pl3_{shift date}");
        RecorderDefinition byHand = line("PL2")
                .withFollows(line("PL2").follows().map(follows -> follows.withNames(Map.of())))
                .withName("Somebody's line");
        assertThat(new LineEdits<>(LINES, both, byHand)
                        .brought(Set.of())
                        .wheres()
                        .get(1)
                        .table())
                .isNotEqualTo("pl1_{shift date}");
    }

    @Test
    void whatWasEditedByHandIsToldFromWhatIsBehindAndEachEditIsKeptOrGivenUp() {
        RecorderDefinition second = line("PL2");
        RecorderDefinition edited = second.withLayout(second.layout()
                        .without(4)
                        .with(3, second.layout().columns().get(3).named("tonnes_an_hour"))
                        .plus(value("power", tag("PL2", "Power"))))
                .withWhens(List.of(new When.Every(Duration.ofMinutes(1))));
        LineEdits<RecorderDefinition, RecorderDefinition.Made> edits = new LineEdits<>(LINES, PL1, edited);
        assertThat(edits.behind()).isFalse();
        assertThat(edits.edits())
                .extracting(LineUp.Edit::words)
                .containsExactly(
                        "its Whens",
                        "column tonnes_an_hour added",
                        "column power added",
                        "column output removed",
                        "column fines removed");
        RecorderDefinition changed = PL1.withGate(Optional.empty())
                .withLayout(PL1.layout().plus(Column.of("note", SqlType.text(9), new ColumnSource.Constant("x"))));
        assertThat(new LineEdits<>(LINES, changed, edited).behind()).isTrue();
        RecorderDefinition kept = new LineEdits<>(LINES, changed, edited).brought(Set.of());
        assertThat(kept.gate()).isEmpty();
        assertThat(kept.layout().column("note")).isPresent();
        assertThat(kept.layout().column("power")).isPresent();
        assertThat(kept.layout().column("fines")).isEmpty();
        assertThat(kept.whens()).isEqualTo(edited.whens());
        assertThat(new LineEdits<>(LINES, changed, kept).behind()).isFalse();
        assertThat(new LineEdits<>(LINES, changed, kept).edits()).hasSize(5);
        RecorderDefinition given =
                new LineEdits<>(LINES, changed, edited).brought(Set.of("when", "column power", "column fines"));
        assertThat(given.layout().column("power")).isEmpty();
        assertThat(given.layout().column("fines")).isPresent();
        assertThat(given.layout().column("tonnes_an_hour")).isPresent();
        assertThat(given.whens()).hasSize(2);
        assertThat(DefinitionCodec.read(DefinitionCodec.write(given))).isEqualTo(given);
    }
}
