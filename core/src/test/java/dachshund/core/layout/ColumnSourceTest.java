package dachshund.core.layout;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.formula.Bound;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.ColumnSource.Constant;
import dachshund.core.layout.ColumnSource.FromFormula;
import dachshund.core.layout.ColumnSource.FromTag;
import dachshund.core.layout.ColumnSource.FromTags;
import dachshund.core.tag.TagRef;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class ColumnSourceTest {

    private static final TagRef LEVEL = new TagRef("b0000001", "level");
    private static final TagRef STATE = new TagRef("b0000001", "state");

    private static final Layout ROW = new Layout(List.of(
            Column.of("level", SqlType.DOUBLE, new FromTag(LEVEL, Aspect.VALUE)),
            Column.of("level_quality", SqlType.text(20), new FromTag(LEVEL, Aspect.QUALITY)),
            Column.of("two words", SqlType.DOUBLE, new FromTag(STATE, Aspect.VALUE))));

    private static final ColumnSource.Names NAMES = new ColumnSource.Names() {
        @Override
        public String tag(TagRef tag) {
            return "<" + tag.address() + ">";
        }

        @Override
        public String whose(String equipment) {
            return equipment.isEmpty() ? "" : " of " + equipment;
        }
    };

    private static Stream<ColumnSource> some() {
        return Stream.concat(
                Stream.of(
                        new FromTag(LEVEL, Aspect.SOURCE_TIME),
                        new FromTags(List.of(LEVEL, STATE), true),
                        new FromFormula("level * 2", Map.of("level", LEVEL)),
                        new ColumnSource.FromProperty("e1", "mass flow", Aspect.QUALITY),
                        new ColumnSource.Document(ROW.columns())),
                ColumnSource.offers(Shape.ROW_PER_TAG, List.of("temperature")).stream()
                        .map(ColumnSource.Offer::source));
    }

    @Test
    void eachOneHasANameInDocumentsAndIsAmongTheSamples() {
        assertThat(ColumnSource.DOCUMENTS.values()).containsExactlyInAnyOrder(kinds());
        assertThat(some().map(Object::getClass)).contains(kinds());
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    private static Class<? extends ColumnSource>[] kinds() {
        return (Class[]) ColumnSource.class.getPermittedSubclasses();
    }

    @Test
    void whatItsFormShowsGivesItBack() {
        assertThat(some()).allSatisfy(source -> {
            Map<String, String> form = new HashMap<>();
            source.form().forEach(field -> form.put(field.name(), field.value()));
            assertThat(source.filled(form, ROW)).isEqualTo(source);
            source.form().forEach(field -> assertThat(field.options())
                    .filteredOn(option -> option.value().equals(field.value()))
                    .hasSize(field.options().isEmpty() ? 0 : 1));
            assertThat(source.shown(NAMES)).isNotBlank();
            assertThat(source.sentence(NAMES)).isNotBlank();
        });
    }

    @Test
    void nothingIsOnOfferTwice() {
        List<String> keys = ColumnSource.offers(Shape.ROW_PER_TAG, List.of("temperature", "speed")).stream()
                .map(ColumnSource.Offer::key)
                .toList();
        assertThat(keys).doesNotHaveDuplicates().contains("ROW_ID", "number", "property:speed", "fact:UNIT");
        assertThat(ColumnSource.offers(Shape.COLUMN_PER_TAG, List.of()))
                .noneMatch(offer -> offer.key().startsWith("fact:"));
    }

    @Test
    void whatTagsMakeOfItWhenTheyFeedIt() {
        FromTag one = new FromTag(LEVEL, Aspect.QUALITY);
        assertThat(one.fed(List.of())).isEqualTo(one);
        assertThat(one.fed(List.of(STATE))).isEqualTo(new FromTag(STATE, Aspect.QUALITY));
        FromTags two = new FromTags(List.of(LEVEL, STATE), false);
        assertThat(one.fed(List.of(LEVEL, STATE))).isEqualTo(two);
        assertThat(two.fed(List.of(STATE))).isEqualTo(new FromTag(STATE, Aspect.VALUE));
        assertThat(new FromTags(List.of(LEVEL, STATE), true).fed(List.of(STATE, LEVEL)))
                .isEqualTo(new FromTags(List.of(STATE, LEVEL), true));
        assertThat(new Constant("x").fed(List.of(LEVEL))).isEqualTo(new FromTag(LEVEL, Aspect.VALUE));
        assertThat(new Constant("x").fed(List.of())).isEqualTo(new Constant("x"));
        FromFormula formula = new FromFormula("level", Map.of("level", LEVEL));
        assertThat(formula.fed(List.of(STATE)))
                .as("its inputs are named in its text")
                .isEqualTo(formula);
        assertThat(some().filter(source -> !source.feeds().isEmpty())).allMatch(ColumnSource::feedable);
        assertThat(new Constant("x").feedable()).isTrue();
        assertThat(formula.feedable()).isFalse();
    }

    @Test
    void wordsInARowAndInASentence() {
        assertThat(new FromTag(LEVEL, Aspect.VALUE).sentence(NAMES)).isEqualTo("<level>");
        assertThat(new FromTag(LEVEL, Aspect.QUALITY).sentence(NAMES)).isEqualTo("the quality of <level>");
        assertThat(new ColumnSource.FromProperty("e1", "mass flow", Aspect.QUALITY).sentence(NAMES))
                .as("what of it is told too")
                .isEqualTo("the quality of mass flow of e1");
        assertThat(new FromTags(List.of(LEVEL, STATE), true).shown(NAMES)).isEqualTo("a row each of <level>, <state>");
    }

    @Test
    void aFormulaTakesItsNamesFromTheRowAndKeepsThoseItHad() {
        assertThat(ROW.named()).containsExactly(Map.entry("level", LEVEL));
        assertThat(Bound.inputs("LEVEL > 80 && state = 1", Map.of("state", STATE, "unused", LEVEL), ROW.named()))
                .hasSize(2)
                .containsEntry("state", STATE)
                .containsValue(LEVEL);
        assertThat(Bound.inputs("level >", Map.of("state", STATE), ROW.named()))
                .as("what is half written keeps what it had")
                .containsExactly(Map.entry("state", STATE));
    }
}
