package dachshund.core.transaction;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Named;
import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.kind.TransactionKind;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.release.LeftWithout;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** A transaction about a piece of equipment: its properties are whatever they are mapped to there. */
class OnEquipmentTest {

    private static final Instant NOW = Instant.parse("2026-11-29T06:00:00Z");
    private static final TagRef LOT = new TagRef("aaaa0001", "lot");
    private static final TagRef WEIGHT = new TagRef("aaaa0001", "weight");

    private static final SourceDefinition SOURCE = new SourceDefinition(
            "aaaa0001",
            "Works",
            "",
            "simulated",
            Map.of(),
            Duration.ofSeconds(1),
            List.of(tag("lot", DataKind.TEXT, ""), tag("weight", DataKind.NUMBER, "t")));

    private static final EquipmentClassDefinition LINE = new EquipmentClassDefinition(
            "eeee0001",
            "Pellet line",
            "",
            List.of(
                    new PropertyDesign("Lot", DataKind.TEXT, "", false, ""),
                    new PropertyDesign("Output", DataKind.NUMBER, "kg", false, ""),
                    new PropertyDesign("Twice", DataKind.NUMBER, "kg", false, ""),
                    new PropertyDesign("Rated", DataKind.INTEGER, "kW", false, ""),
                    new PropertyDesign("Moisture", DataKind.NUMBER, "%", false, "")));

    private static final EquipmentDefinition PL1 = new EquipmentDefinition(
            "ffff0001",
            "PL1",
            "",
            LINE.id(),
            "",
            Map.of(
                    "Lot",
                    PropertySource.FromTag.of(LOT),
                    "Output",
                    PropertySource.FromTag.of(WEIGHT),
                    "Twice",
                    new PropertySource.FromTag(WEIGHT, "kg", "x * 2000"),
                    "Rated",
                    new PropertySource.Constant("90")));

    static final Plant PLANT = plant(SOURCE, LINE, PL1);

    private static final TransactionDefinition DESIGN = TransactionDefinition.begun("cccc0001", "Lot ends", "dddd0001")
            .withEquipment(PL1.id())
            .withGathers(List.of(
                    Gathered.of("lot", "Lot"),
                    Gathered.of("kg", "Output"),
                    Gathered.of("twice", "Twice"),
                    Gathered.of("kw", "Rated"),
                    Gathered.of("wet", "Moisture"),
                    new Gathered("weight", WEIGHT, Gathered.WhenBad.FAIL),
                    Gathered.given("who")));

    private static TagInfo tag(String name, DataKind kind, String unit) {
        return new TagInfo(name, "", name, kind, unit, "", false);
    }

    private static Plant plant(Definition... all) {
        return new Plant("Quillmoor", ZoneOffset.UTC, List.of(all));
    }

    private static TagValue now(TagRef tag) {
        return TagValue.good(tag.equals(LOT) ? "PL1-7" : (Object) 1.5, NOW);
    }

    @Test
    void aPropertyIsItsTagInItsOwnUnitOrWhatIsComputedOfItOrAConstant() {
        OnEquipment on = OnEquipment.of(DESIGN, PLANT);
        Map<String, Object> values = new HashMap<>();
        on.placed(DESIGN)
                .gathers()
                .forEach(each -> values.put(
                        each.name(),
                        on.value(each, OnEquipmentTest::now, NOW).value().orElse("none")));
        assertThat(on.name()).isEqualTo("PL1");
        assertThat(values)
                .containsEntry("lot", "PL1-7")
                .containsEntry("kg", 1500.0)
                .containsEntry("twice", 3000.0)
                .containsEntry("kw", 90L)
                .containsEntry("wet", "none")
                .containsEntry("weight", 1.5);
        assertThat(on.value(Gathered.of("wet", "Moisture"), OnEquipmentTest::now, NOW)
                        .quality()
                        .words())
                .contains("PL1 maps no property Moisture");
    }

    @Test
    void itsTagsAreReadAsAnyOthers() {
        TransactionDefinition placed = OnEquipment.of(DESIGN, PLANT).placed(DESIGN);
        assertThat(DESIGN.reads()).as("nobody knows yet").containsExactly(WEIGHT);
        assertThat(placed.reads()).containsExactly(LOT, WEIGHT);
        assertThat(placed.named().keySet()).containsExactly("lot", "kg", "twice", "weight");
        assertThat(placed.gathers()).filteredOn(Gathered::isGiven).hasSize(1);
        assertThat(OnEquipment.of(DESIGN.withEquipment(""), PLANT).placed(DESIGN))
                .isEqualTo(DESIGN);
    }

    private static List<String> problems(TransactionDefinition design) {
        return TransactionCheckTest.problems(design);
    }

    @Test
    void whatItsEquipmentDoesNotHaveIsSaidBeforeItIsReleased() {
        TransactionDefinition good = TransactionCheckTest.LOT_ENDS
                .withEquipment(PL1.id())
                .withGathers(List.of(Gathered.of("lot", "Lot"), Gathered.of("kg", "Output")));
        assertThat(problems(good)).isEmpty();
        assertThat(problems(good.withEquipment("")))
                .contains("-1 Choose the equipment whose Lot is lot.", "-1 Choose the equipment whose Output is kg.");
        assertThat(problems(good.withGathers(List.of(Gathered.of("lot", "Lot"), Gathered.of("wet", "Moisture")))))
                .containsExactly("-1 PL1 maps no property Moisture, which wet is.");
        Over over = new Over(
                Over.Since.LENGTH,
                Duration.ofHours(1),
                Optional.empty(),
                new Calculation.OfPart13(Aggregate.TIME_AVERAGE));
        List<Gathered> past = new ArrayList<>(good.gathers());
        past.set(1, past.get(1).withOver(Optional.of(over)));
        assertThat(problems(good.withGathers(past)))
                .singleElement()
                .asString()
                .contains("Output of PL1 is not a tag as it is");
        assertThat(problems(good.withEquipment("")
                        .withGathers(List.of(new Gathered("lot", LOT, Gathered.WhenBad.FAIL)))
                        .withPolicy(Policy.USUAL.inTurn(true), List.of())))
                .containsExactly("-1 It is to be the only one at its equipment: choose which equipment that is.");
    }

    @Test
    void aReviewSaysWhatChanges() {
        TransactionKind kind = new TransactionKind();
        Map<String, Definition> all = Map.of(PL1.id(), PL1, SOURCE.id(), SOURCE);
        Named named = new Named(all, all);
        assertThat(kind.thingsOf(DESIGN)).contains(PL1.id());
        assertThat(kind.introducing(DESIGN, named))
                .contains("Is about PL1.")
                .anyMatch(each -> each.contains("kg = Output of its equipment"));
        assertThat(kind.changing(DESIGN, DESIGN.withEquipment(""), named))
                .containsExactly("Equipment from PL1 to none.");
        assertThat(kind.changing(DESIGN, DESIGN.withPolicy(Policy.USUAL.inTurn(true), List.of()), named))
                .singleElement()
                .asString()
                .contains("one at a time among those of its equipment");
        EquipmentDefinition less = PL1.withProperties(Map.of("Lot", PropertySource.FromTag.of(LOT)));
        assertThat(LeftWithout.byThing(
                                List.of(SOURCE, LINE, PL1, DESIGN),
                                List.of(SOURCE, LINE, less, DESIGN),
                                PLANT,
                                plant(SOURCE, LINE, less))
                        .get(PL1.id()))
                .extracting(LeftWithout.Left::what)
                .containsExactly("the property Output", "the property Twice", "the property Rated");
    }

    @Test
    void theGoldenDocumentIsUnderstoodAndStillWritten() throws Exception {
        TransactionDefinition design = DESIGN.withPolicy(Policy.USUAL.inTurn(true), List.of("lot"));
        try (var golden = OnEquipmentTest.class.getResourceAsStream("/golden/transaction-equipment-2.json")) {
            String text = new String(golden.readAllBytes(), StandardCharsets.UTF_8);
            assertThat(DefinitionCodec.read(text)).isEqualTo(design);
            ObjectMapper json = new ObjectMapper();
            assertThat(json.readTree(DefinitionCodec.write(design))).isEqualTo(json.readTree(text));
        }
    }
}
