package dachshund.core.lineup;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Named;
import dachshund.core.definition.Plant;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertySource;
import dachshund.core.kind.TransactionKind;
import dachshund.core.query.QueryDefinition;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.release.WhenCheck;
import dachshund.core.shift.ShiftCalendar;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.OwnWords;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.TransactionDefinition.Made;
import dachshund.core.transaction.Wording;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** One transaction over PL1, PL2 and PL3; PL3 has no dust, and PL10 is another machine. */
class TransactionLinesTest {

    private static final TransactionLines LINES = new TransactionLines(List::of);

    private static TagRef tag(String machine, String name) {
        return new TagRef("s", machine + "/" + name);
    }

    private static Over whileLot(String machine) {
        return new Over(
                Over.Since.SAME,
                Duration.ofHours(8),
                Optional.of(tag(machine, "Lot")),
                new Calculation.OfPart13(Aggregate.TIME_AVERAGE));
    }

    private static final TransactionDefinition PL1 = TransactionDefinition.begun("cccc0001", "Lot end PL1", "dddd0001")
            .withEquipment("ePL1")
            .withWhens(List.of(new When.OnRequest(
                    tag("PL1", "Number"), Optional.of(tag("PL1", "Epoch")), Optional.of(tag("PL1", "Echo")))))
            .withGate(Optional.of(new Condition("state = 1", Map.of("state", tag("PL1", "State")))))
            .withGathers(List.of(
                    new Gathered("lot", tag("PL1", "Lot"), Gathered.WhenBad.FAIL),
                    new Gathered("hot", tag("PL1", "Heat"), Gathered.WhenBad.NOTHING, Optional.of(whileLot("PL1"))),
                    new Gathered("dust", tag("PL1", "Dust"), Gathered.WhenBad.FAIL),
                    Gathered.of("kg", "Output"),
                    Gathered.given("who")))
            .withSteps(List.of(
                    new Step.Compute("rate", "", "36.5"),
                    new Step.Compute("place", "", "\"Hall of PL1, not PL10\""),
                    new Step.LookUp(
                            "ord",
                            "",
                            "",
                            "SELECT no FROM orders_pl1 WHERE line = 'PL1' AND pl1 = :pl1_x",
                            Step.Rows.ONE_OR_NONE),
                    new Step.Put(
                            "book",
                            "ord_rows = 1",
                            Step.Deed.INSERT,
                            "lot_record",
                            List.of(new Step.Cell("line", "\"PL1\"", false), new Step.Cell("pl1_kg", "kg", false)),
                            1,
                            1,
                            ""),
                    new Step.WriteTag("feed", "", tag("PL1", "Feed"), "30", 0.1),
                    new Step.Publish(
                            "tell",
                            "",
                            "aaaa0002",
                            "works/pl1/{lot + \"PL1\"}",
                            new Wording(Wording.As.TEXT, "\"PL1 is done\"", List.of()),
                            false),
                    new Step.Note("word", "", "\"PL1\"")))
            .withAnswer(new Answer(
                    Optional.of(tag("PL1", "Code")), Optional.of(tag("PL1", "Text")), 1, 2, 3, "\"PL1 \" + lot"));

    private static List<Alike.Placed> plant() {
        List<Alike.Placed> placed = new ArrayList<>();
        for (String machine : List.of("PL1", "PL2", "PL3")) {
            PL1.everyTag().stream()
                    .map(tag -> tag.address().substring("PL1/".length()))
                    .filter(name -> !machine.equals("PL3") || !name.equals("Dust"))
                    .forEach(name -> placed.add(new Alike.Placed(
                            tag(machine, name),
                            new TagInfo(
                                    machine + "/" + name,
                                    "Pelleting / " + machine,
                                    name,
                                    DataKind.NUMBER,
                                    "",
                                    "",
                                    true))));
        }
        return placed;
    }

    private static List<EquipmentDefinition> equipment() {
        return List.of("PL1", "PL2", "PL3").stream()
                .map(machine -> new EquipmentDefinition(
                        "e" + machine,
                        machine,
                        "",
                        "class",
                        "",
                        Map.of(
                                "Lot",
                                PropertySource.FromTag.of(tag(machine, "Lot")),
                                "Output",
                                new PropertySource.Constant("5"))))
                .toList();
    }

    private static TransactionDefinition line(TransactionDefinition original, String machine) {
        return Proposals.of(LINES, original, equipment(), plant()).stream()
                .filter(each -> each.machine().equals(machine))
                .findFirst()
                .orElseThrow()
                .line(LINES, original, "cccc000" + machine.charAt(2));
    }

    private static TransactionDefinition with(TransactionDefinition line, UnaryOperator<Follows<Made>> change) {
        return new LineEdits<>(LINES, PL1, line.withFollows(line.follows().map(change))).brought(Set.of());
    }

    /** What stands against a release. */
    private static List<String> problems(TransactionDefinition line) {
        List<String> problems =
                new ArrayList<>(WhenCheck.problems(line, TransactionLinesTest::info, ShiftCalendar.NONE));
        TransactionCheck.problems(line, new TransactionCheck.Around() {
                    @Override
                    public Dialect dialect(String database) {
                        return new StandardDialect();
                    }

                    @Override
                    public Optional<TagInfo> tag(TagRef tag) {
                        return info(tag);
                    }

                    @Override
                    public Optional<QueryDefinition> query(String id) {
                        return Optional.empty();
                    }

                    @Override
                    public OnEquipment equipment(TransactionDefinition of) {
                        return new OnEquipment("", "", Map.of());
                    }
                })
                .forEach(each -> problems.add(each.sentence()));
        return problems;
    }

    private static Optional<TagInfo> info(TagRef tag) {
        return plant().stream()
                .filter(placed -> placed.ref().equals(tag))
                .map(Alike.Placed::info)
                .findFirst();
    }

    @Test
    void aLineReadsAndWritesItsOwnTagsAndNamesItsOwnMachine() {
        TransactionDefinition second = line(PL1, "PL2");
        assertThat(second.name()).isEqualTo("Lot end PL2");
        assertThat(second.equipment()).isEqualTo("ePL2");
        assertThat(second.everyTag()).hasSameSizeAs(PL1.everyTag()).allMatch(each -> each.address()
                .startsWith("PL2/"));
        assertThat(second.request().orElseThrow())
                .isEqualTo(new When.OnRequest(
                        tag("PL2", "Number"), Optional.of(tag("PL2", "Epoch")), Optional.of(tag("PL2", "Echo"))));
        assertThat(second.gathers().get(1).over().orElseThrow()).isEqualTo(whileLot("PL2"));
        assertThat(second.gathers().subList(3, 5)).isEqualTo(PL1.gathers().subList(3, 5));
        assertThat(((Step.Compute) second.steps().get(1)).value()).isEqualTo("\"Hall of PL2, not PL10\"");
        assertThat(((Step.LookUp) second.steps().get(2)).sql())
                .isEqualTo("SELECT no FROM orders_pl2 WHERE line = 'PL2' AND pl2 = :pl1_x");
        assertThat(((Step.Put) second.steps().get(3)).cells())
                .containsExactly(new Step.Cell("line", "\"PL2\"", false), new Step.Cell("pl2_kg", "kg", false));
        Step.Publish tell = (Step.Publish) second.steps().get(5);
        assertThat(tell.topic()).isEqualTo("works/pl2/{lot + \"PL2\"}");
        assertThat(tell.says().text()).isEqualTo("\"PL2 is done\"");
        assertThat(second.answer().doneText()).isEqualTo("\"PL2 \" + lot");
        assertThat(problems(second)).as("a formula within a topic may add").noneMatch(each -> each.contains("topic"));
        assertThat(new LineEdits<>(LINES, PL1, second).behind()).isFalse();
        assertThat(new LineEdits<>(LINES, PL1, second).edits()).isEmpty();
    }

    @Test
    void whatAMachineLacksIsAGapThatBlocksUntilSomebodySaysWhatBecomesOfIt() {
        TransactionDefinition third = line(PL1, "PL3");
        assertThat(new LineEdits<>(LINES, PL1, third).gaps()).containsExactly(tag("PL1", "Dust"));
        assertThat(third.gathers().get(2).isGiven())
                .as("nobody is asked for it")
                .isFalse();
        assertThat(third.everyTag()).noneMatch(each -> each.address().startsWith("PL1/"));
        assertThat(problems(third))
                .contains("What is gathered as dust has no tag of this machine. Choose one, or say in the line-up what"
                        + " becomes of it.");
        TransactionDefinition without =
                with(third, follows -> follows.withChoices(List.of(), List.of(tag("PL1", "Dust"))));
        assertThat(without.gathers().get(2).isGiven()).isTrue();
        assertThat(without.gathers().get(2).bad()).isEqualTo(Gathered.WhenBad.NOTHING);
        assertThat(problems(without)).noneMatch(each -> each.contains("gathered as dust"));
        assertThat(new LineEdits<>(LINES, PL1, without).edits()).isEmpty();
        TransactionDefinition shared =
                with(third, follows -> follows.withChoices(List.of(tag("PL1", "Dust")), List.of()));
        assertThat(shared.gathers().get(2).tag()).isEqualTo(tag("PL1", "Dust"));
        TransactionDefinition silent = with(
                third,
                follows -> follows.withChoices(
                        List.of(), List.of(tag("PL1", "Feed"), tag("PL1", "Code"), tag("PL1", "Epoch"))));
        assertThat(silent.step("feed")).as("nothing is written").isEmpty();
        assertThat(silent.answer().code()).isEmpty();
        assertThat(silent.request().orElseThrow().epoch()).isEmpty();
    }

    /** Every tag, one after the other, is one that the machine has not: it is refused, whatever it is for. */
    @Test
    void noTagWhateverItIsForIsReleasedAsAGap() {
        TransactionDefinition second = line(PL1, "PL2");
        assertThat(problems(second)).noneMatch(each -> each.contains("tag of this machine"));
        for (TagRef lacks : PL1.everyTag()) {
            TransactionDefinition line = with(
                    second,
                    follows -> new Follows<>(
                            follows.original(),
                            follows.tags().stream()
                                    .filter(swap -> !swap.from().equals(lacks))
                                    .toList(),
                            Map.of(),
                            Optional.empty(),
                            List.of(),
                            List.of(),
                            follows.names(),
                            follows.made()));
            assertThat(line.everyTag()).noneMatch(each -> each.address().startsWith("PL1/") && !each.isGap());
            List<String> more = new ArrayList<>(problems(line));
            more.removeAll(problems(second));
            assertThat(more).as(lacks.address()).isNotEmpty();
        }
    }

    @Test
    void whatALineIsDoneAfterOrForIsNeverAnotherMachinesBySilence() {
        TransactionDefinition after = PL1.withWhens(List.of(new When.AfterTransaction("cccc0009")));
        assertThat(line(after, "PL2").after()).isEmpty();
        assertThat(problems(line(after, "PL2"))).contains("Choose the transaction after which it is done.");
        TransactionDefinition rows = PL1.withWhens(List.of(newRow("pl1_samples"), newRow("samples")));
        TransactionDefinition second = line(rows, "PL2");
        assertThat(second.newRows()).extracting(When.OnNewRow::table).containsExactly("pl2_samples", "");
        assertThat(problems(second)).anyMatch(each -> each.startsWith("Say which table"));
    }

    /** Of two that might be meant, and where a line has no equipment, nobody knows which one it is. */
    @Test
    void aLineIsDoneAfterTheLineOfItsOwnMachine() {
        TransactionDefinition first = TransactionDefinition.begun("cccc0009", "Lot begin PL1", "dddd0001")
                .withEquipment("ePL1");
        TransactionDefinition second = following(first, "cccc0010", "ePL2");
        TransactionDefinition third = following(first, "cccc0011", "ePL3");
        TransactionDefinition stranger = following(PL1, "cccc0012", "ePL2");
        List<TransactionDefinition> all = new ArrayList<>(List.of(first, third, stranger));
        TransactionLines lines = new TransactionLines(() -> all);
        TransactionDefinition original = PL1.withWhens(List.of(new When.AfterTransaction(first.id())));
        TransactionDefinition line = line(original, "PL2");
        assertThat(lines.derived(original, line).after()).isEmpty();
        TransactionDefinition made = lines.made(original, line);
        all.add(second);
        assertThat(lines.derived(original, line).after()).containsExactly(second.id());
        LineEdits<TransactionDefinition, Made> edits = new LineEdits<>(lines, original, made);
        assertThat(edits.behind()).isTrue();
        assertThat(edits.brought(Set.of()).after()).containsExactly(second.id());
        // An original that is done after a line: the other machine's may be the original of that line.
        TransactionDefinition afterThird = original.withWhens(List.of(new When.AfterTransaction(third.id())));
        assertThat(lines.derived(afterThird, line.withEquipment("ePL1")).after())
                .containsExactly(first.id());
        assertThat(lines.derived(original, line.withEquipment("")).after()).isEmpty();
        all.add(following(first, "cccc0013", "ePL2"));
        assertThat(lines.derived(original, line).after()).isEmpty();
    }

    @Test
    void whatReadsNoTagFitsTheMachinesOfTheClassOfItsEquipment() {
        TransactionDefinition first = TransactionDefinition.begun("cccc0009", "Lot begin PL1", "dddd0001")
                .withEquipment("ePL1");
        List<TransactionDefinition> all = List.of(first, following(first, "cccc0010", "ePL2"));
        TransactionLines lines = new TransactionLines(() -> all);
        TransactionDefinition label = TransactionDefinition.begun("cccc0014", "Label PL1", "dddd0001")
                .withEquipment("ePL1")
                .withWhens(List.of(new When.AfterTransaction(first.id())));
        List<Proposals.Proposed> proposed = Proposals.of(lines, label, equipment(), plant());
        assertThat(proposed).extracting(Proposals.Proposed::machine).contains("PL2", "PL3");
        TransactionDefinition line = proposed.stream()
                .filter(each -> each.machine().equals("PL2"))
                .findFirst()
                .orElseThrow()
                .line(lines, label, "cccc0015");
        assertThat(line.name()).isEqualTo("Label PL2");
        assertThat(line.after()).containsExactly("cccc0010");
        assertThat(Proposals.of(lines, label.withEquipment(""), equipment(), plant()))
                .isEmpty();
    }

    private static TransactionDefinition following(TransactionDefinition original, String id, String equipment) {
        return original.as(id, id)
                .withEquipment(equipment)
                .withFollows(Optional.of(new Follows<>(original.id(), List.of(), Map.of(), Optional.empty())));
    }

    private static When newRow(String table) {
        return new When.OnNewRow("dddd0001", table, List.of("no"), "no", Duration.ZERO, 100, Duration.ofSeconds(1));
    }

    @Test
    void aChangeOfTheOriginalIsTakenOverAndEditsByHandAreKeptOrGivenUp() {
        TransactionDefinition second = line(PL1, "PL2");
        List<Step> steps = new ArrayList<>(second.steps());
        steps.remove(6);
        steps.add(3, new Step.Note("mine", "", "\"by hand\""));
        steps.set(4, new Step.Put("book", "", Step.Deed.INSERT, "lots_2", List.of(), 1, 1, ""));
        TransactionDefinition edited = second.withSteps(steps)
                .withGathers(second.gathers().subList(0, 4))
                .withPolicy(Policy.USUAL, List.of("lot"));
        LineEdits<TransactionDefinition, Made> edits = new LineEdits<>(LINES, PL1, edited);
        assertThat(edits.behind()).isFalse();
        assertThat(edits.edits())
                .extracting(LineUp.Edit::words)
                .containsExactly(
                        "value who removed",
                        "step mine added",
                        "step book",
                        "step word removed",
                        "the keys of the ledger");
        List<Step> more = new ArrayList<>(PL1.steps());
        more.add(0, new Step.Note("first", "", "\"PL1 begins\""));
        more.set(1, new Step.Compute("rate", "", "40"));
        TransactionDefinition changed = PL1.withSteps(more).withGate(Optional.empty());
        assertThat(new LineEdits<>(LINES, changed, edited).behind()).isTrue();
        TransactionDefinition kept = new LineEdits<>(LINES, changed, edited).brought(Set.of());
        assertThat(kept.steps())
                .extracting(Step::name)
                .containsExactly("first", "rate", "place", "ord", "mine", "book", "feed", "tell");
        assertThat(((Step.Note) kept.steps().get(0)).value()).isEqualTo("\"PL2 begins\"");
        assertThat(((Step.Compute) kept.steps().get(1)).value()).isEqualTo("40");
        assertThat(((Step.Put) kept.steps().get(5)).table()).isEqualTo("lots_2");
        assertThat(kept.gate()).isEmpty();
        assertThat(kept.gathers()).hasSize(4);
        assertThat(kept.keys()).containsExactly("lot");
        assertThat(new LineEdits<>(LINES, changed, kept).behind()).isFalse();
        assertThat(new LineEdits<>(LINES, changed, kept).edits()).hasSize(5);
        TransactionDefinition given = new LineEdits<>(LINES, changed, edited)
                .brought(Set.of("step mine", "step book", "step word", "gather who", "keys"));
        assertThat(given.made()).isEqualTo(LINES.derived(changed, second).made());
    }

    @Test
    void stepsThatWerePutInAnotherOrderStayInIt() {
        TransactionDefinition second = line(PL1, "PL2");
        List<Step> turned = new ArrayList<>(second.steps());
        turned.add(0, turned.remove(6));
        LineEdits<TransactionDefinition, Made> edits = new LineEdits<>(LINES, PL1, second.withSteps(turned));
        assertThat(edits.edits()).extracting(LineUp.Edit::part).containsExactly("order");
        assertThat(edits.brought(Set.of()).steps()).isEqualTo(turned);
        assertThat(edits.brought(Set.of("order")).steps()).isEqualTo(second.steps());
    }

    @Test
    void aConstantOfALineIsItsOwn() {
        assertThat(LINES.constants(PL1))
                .containsOnly(Map.entry("rate", "36.5"), Map.entry("place", "Hall of PL1, not PL10"));
        TransactionDefinition own = with(
                line(PL1, "PL2"),
                follows -> new Follows<>(
                        follows.original(),
                        follows.tags(),
                        Map.of("rate", "41", "place", "the \"old\" hall"),
                        Optional.empty(),
                        List.of(),
                        List.of(),
                        follows.names(),
                        follows.made()));
        assertThat(((Step.Compute) own.steps().get(0)).value()).isEqualTo("41");
        assertThat(LINES.constants(own)).containsEntry("place", "the \"old\" hall");
        assertThat(problems(own)).as("a formula that can be read").noneMatch(each -> each.contains("old"));
        assertThat(new LineEdits<>(LINES, PL1, own).edits()).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({
        "PL1, PL2, lots of PL1 and PL10, lots of PL2 and PL10",
        "PL1, PL2, pl1_lots, pl2_lots",
        "PL1, PL2, PL1lots XPL1, PL2lots XPL1",
        "Mill, Press, Mills and Mill, Mills and Press",
        "Line (1), Line $2, Line (1) runs, Line $2 runs",
        "a1, a1b, a1 and a1, a1b and a1b",
    })
    void aNameIsNeverTakenForAPartOfALongerOne(String own, String other, String text, String said) {
        assertThat(new OwnWords(Map.of(own, other)).in(text)).isEqualTo(said);
    }

    @Test
    void aLineIsWrittenReadAndToldInSentences() throws Exception {
        TransactionDefinition second = line(PL1, "PL2");
        assertThat(DefinitionCodec.read(DefinitionCodec.write(second))).isEqualTo(second);
        String golden = "/golden/transaction-line-2.json";
        try (var file = TransactionLinesTest.class.getResourceAsStream(golden)) {
            assertThat(file).as(golden).isNotNull();
            String text = new String(file.readAllBytes(), StandardCharsets.UTF_8);
            assertThat(DefinitionCodec.read(text)).isEqualTo(second);
            ObjectMapper json = new ObjectMapper();
            assertThat(json.readTree(DefinitionCodec.write(second))).isEqualTo(json.readTree(text));
        }
        Plant plant = new Plant("Quillmoor", ZoneOffset.UTC, List.of(PL1, second));
        Named named = new Named(Map.<String, Definition>of(PL1.id(), PL1, second.id(), second), Map.of());
        assertThat(plant.all(TransactionDefinition.class)).hasSize(2);
        TransactionKind kind = new TransactionKind();
        assertThat(kind.introducing(second, named)).contains("Follows Lot end PL1.");
        assertThat(kind.changing(second, second.withFollows(Optional.empty()), named))
                .containsExactly("No longer follows Lot end PL1.");
        assertThat(kind.thingsOf(second)).contains(PL1.id());
        TransactionDefinition twin = (TransactionDefinition)
                kind.duplicating(second, "cccc0007", "Another").orElseThrow();
        assertThat(twin.follows()).as("a copy stands alone").isEmpty();
        assertThat(twin.steps()).isEqualTo(second.steps());
    }
}
