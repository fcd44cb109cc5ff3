package dachshund.office.lineup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.lineup.TransactionLines;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.when.When;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Lines of a transaction that stand in a spreadsheet, of machines that no equipment is known of. */
class LineListTest {

    private static final TransactionLines LINES = new TransactionLines(List::of);

    private static final SourceDefinition WORKS = new SourceDefinition(
            "aaaa0001",
            "Works",
            "",
            "simulated",
            Map.of(),
            Duration.ofSeconds(1),
            List.of(tag("PL1", "Lot"), tag("PL1", "Number"), tag("PL2", "Lot"), tag("PL2", "Number")));

    private static final TransactionDefinition PL1 = TransactionDefinition.begun("cccc0001", "Lot end PL1", "dddd0001")
            .withWhens(List.of(new When.OnRequest(ref("PL1", "Number"), Optional.empty(), Optional.empty())))
            .withGathers(List.of(new Gathered("lot", ref("PL1", "Lot"), Gathered.WhenBad.FAIL)))
            .withSteps(List.of(
                    new Step.Compute("nr", "", "1"),
                    new Step.LookUp("ord", "", "", "SELECT no FROM orders WHERE line = 'PL1'", Step.Rows.ONE)));

    private LineList list;

    private static TagInfo tag(String machine, String name) {
        return new TagInfo(machine + "/" + name, "Pelleting / " + machine, name, DataKind.NUMBER, "", "", false);
    }

    private static TagRef ref(String machine, String name) {
        return new TagRef(WORKS.id(), machine + "/" + name);
    }

    @BeforeEach
    void plant() {
        Definitions definitions = mock(Definitions.class);
        TagFinder finder = mock(TagFinder.class);
        List<FoundTag> found = WORKS.tags().stream()
                .map(info -> new FoundTag(WORKS, info, null, Set.of(), Optional.empty(), ""))
                .toList();
        when(finder.find("", "")).thenReturn(found);
        when(finder.find(any(TagRef.class))).thenAnswer(call -> found.stream()
                .filter(each -> each.ref().equals(call.getArgument(0)))
                .findFirst());
        when(definitions.tag(any())).thenAnswer(call -> found.stream()
                .filter(each -> each.ref().equals(call.getArgument(0)))
                .map(FoundTag::info)
                .findFirst());
        when(definitions.find(any())).thenReturn(Optional.empty());
        when(definitions.all(EquipmentDefinition.class)).thenReturn(List.of());
        list = new LineList(definitions, finder);
    }

    private LineList.Read<TransactionDefinition> read(List<TransactionDefinition> lines, String text) {
        return list.read(LINES, PL1, lines, text);
    }

    @Test
    void aLineThatIsPastedNamesItsOwnMachineAsThePlacesOfItsTagsDo() {
        LineList.Read<TransactionDefinition> read = read(
                List.of(),
                "name,constant nr,tag Lot,tag Number\nLot end PL2,2,Works: Pelleting / PL2 / Lot,Works: Pelleting / PL2 / Number\n");
        assertThat(read.problems()).isEmpty();
        TransactionDefinition second = read.lines().get(0);
        assertThat(second.everyTag()).containsExactlyInAnyOrder(ref("PL2", "Lot"), ref("PL2", "Number"));
        assertThat(((Step.Compute) second.steps().get(0)).value()).isEqualTo("2");
        assertThat(((Step.LookUp) second.steps().get(1)).sql()).isEqualTo("SELECT no FROM orders WHERE line = 'PL2'");
        String csv = list.write(LINES, PL1, List.of(second));
        assertThat(csv.lines().findFirst().orElseThrow())
                .endsWith("name,equipment,rate,constant nr,tag Lot,tag Number");
        assertThat(read(List.of(second), csv).lines()).as("nothing differs").containsExactly(second);
    }

    @Test
    void whatIsWrongIsSaidAndNothingIsTaken() {
        assertThat(read(List.of(), "name,table\nLot end PL2,lots\n").problems())
                .singleElement()
                .asString()
                .contains("There is no column named so: \"table\"");
        assertThat(read(List.of(), "name,tag Lot\nLot end PL2,Works: Nowhere / Lot\nLot end PL3,left out\n")
                        .problems())
                .singleElement()
                .asString()
                .startsWith("Line 2: there is no tag");
        assertThat(read(List.of(), "name\nLot end PL2\nlot end pl2\n").problems())
                .singleElement()
                .asString()
                .contains("two lines named");
    }
}
