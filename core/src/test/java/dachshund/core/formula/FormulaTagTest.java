package dachshund.core.formula;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.LinkedHashMap;
import java.util.Map;
import org.junit.jupiter.api.Test;

class FormulaTagTest {

    private static void put(Map<TagRef, TagInfo> tags, String name, String... inputs) {
        Map<String, TagRef> named = new LinkedHashMap<>();
        for (String input : inputs) {
            named.put(input, new TagRef("f", input));
        }
        tags.put(
                new TagRef("f", name),
                new TagInfo(name, "", name, DataKind.NUMBER, "", "", false)
                        .withHow(Map.of(FormulaTag.FORMULA, "1", FormulaTag.INPUTS, FormulaTag.lines(named))));
    }

    @Test
    void aCircleIsNamedAndALongChainIsNone() {
        Map<TagRef, TagInfo> tags = new LinkedHashMap<>();
        put(tags, "a", "b", "elsewhere");
        put(tags, "b", "c");
        put(tags, "c");
        assertThat(FormulaTag.circle(tags)).isEmpty();
        put(tags, "c", "a");
        assertThat(FormulaTag.circle(tags))
                .hasValueSatisfying(sentence -> assertThat(sentence).contains("a, then b, then c, and back"));
        put(tags, "c", "c");
        assertThat(FormulaTag.circle(tags))
                .hasValueSatisfying(sentence -> assertThat(sentence).contains("circle: c, and back"));
        tags.clear();
        for (int i = 0; i < 5000; i++) {
            put(tags, "t" + i, "t" + (i + 1));
        }
        assertThat(FormulaTag.circle(tags)).isEmpty();
    }

    @Test
    void inputsAreLinesAndBadOnesAreTold() {
        Map<String, TagRef> inputs = FormulaTag.inputs("a=12345678 ns;s=x y=z\n\n b_2=12345678 other");
        assertThat(inputs)
                .containsEntry("a", new TagRef("12345678", "ns;s=x y=z"))
                .containsEntry("b_2", new TagRef("12345678", "other"));
        assertThat(FormulaTag.inputs(FormulaTag.lines(inputs))).isEqualTo(inputs);
        assertThatThrownBy(() -> FormulaTag.inputs("a")).hasMessageContaining("name=source address");
        assertThatThrownBy(() -> FormulaTag.inputs("2a=s x")).hasMessageContaining("begins with a letter");
        assertThatThrownBy(() -> FormulaTag.inputs("a=s x\nA=s y")).hasMessageContaining("two inputs named A");
    }
}
