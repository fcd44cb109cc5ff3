package dachshund.core.tag;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class TagInfoTest {

    private static final TagInfo OUTLET = new TagInfo(
                    "n1", "Drying", "Outlet", DataKind.NUMBER, "°C", "Exhaust air", false)
            .withRange(Optional.of(new Range(0, 250)));

    @Test
    void aReplacedFactKeepsWhatTheSourceSays() {
        TagInfo mine = OUTLET.replaced(Map.of("unit", "K", "range", "273 to 523"));
        assertThat(mine.unit()).isEqualTo("K");
        assertThat(mine.original()).isEqualTo(Map.of("unit", "°C", "range", "0 to 250"));
        TagInfo other = new TagInfo("n1", "Drying", "Outlet temperature", DataKind.NUMBER, "°F", "Exhaust air", true);
        TagInfo renewed = mine.renewed(other);
        assertThat(renewed.name()).isEqualTo("Outlet temperature");
        assertThat(renewed.unit()).isEqualTo("K");
        assertThat(renewed.original()).containsEntry("unit", "°F");
        assertThat(mine.replaced(Map.of("unit", "°C", "range", "0 to 250"))).isEqualTo(OUTLET);
    }

    @Test
    void factsAreReadWithASentence() {
        assertThat(TagFacts.range("-1.5 to 2e3")).contains(new Range(-1.5, 2000));
        assertThatThrownBy(() -> TagFacts.range("a lot")).hasMessageContaining("0 to 250");
        assertThatThrownBy(() -> TagFacts.range("5 to 1")).hasMessageContaining("not above");
        assertThatThrownBy(() -> TagFacts.decimals("11")).hasMessageContaining("0 to 10");
        assertThat(TagFacts.labels("energy, line 1; energy")).isEqualTo(List.of("energy", "line 1"));
        assertThat(TagFacts.kind("yes/no")).isEqualTo(DataKind.BOOLEAN);
        assertThatThrownBy(() -> OUTLET.replaced(Map.of("name", " "))).hasMessageContaining("name");
    }

    /** A tag that is described anew is never taken for one that is gone: with its address come its history and its place. */
    @Test
    void aFreeAddressIsNoneThatAnotherTagHadBefore() {
        Set<String> given = IntStream.range(0, 1000)
                .mapToObj(i -> TagInfo.freeAddress(List.of(OUTLET)))
                .collect(Collectors.toSet());
        assertThat(given).hasSize(1000);
    }
}
