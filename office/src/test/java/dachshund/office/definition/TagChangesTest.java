package dachshund.office.definition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.awaitility.Awaitility.await;
import static org.mockito.ArgumentMatchers.anyLong;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.DefinitionTables.By;
import dachshund.office.definition.DefinitionTables.TagsReleased;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.springframework.dao.DataAccessResourceFailureException;

/** Who changed a tag last is what releases and drafts say, whatever they changed beside it. */
class TagChangesTest {

    private static final Instant T = Instant.parse("2026-11-29T06:00:00Z");

    private final Definitions definitions = mock(Definitions.class);
    private final DefinitionTables tables = mock(DefinitionTables.class);
    private final Map<String, List<TagInfo>> lists = new HashMap<>();
    private final List<TagsReleased> released = new ArrayList<>();
    private final TagChanges changes = new TagChanges(definitions, tables);

    @BeforeEach
    void open() {
        lists.put("", List.of());
        when(tables.tags(org.mockito.ArgumentMatchers.anyString()))
                .thenAnswer(asked -> lists.get(asked.<String>getArgument(0)));
        when(tables.newestRelease()).thenAnswer(asked -> (long) released.size());
        when(definitions.release()).thenAnswer(asked -> (long) released.size());
        when(tables.tagsReleased(anyLong(), anyLong()))
                .thenAnswer(asked -> List.copyOf(released.subList(
                        asked.<Long>getArgument(0).intValue(),
                        asked.<Long>getArgument(1).intValue())));
    }

    private static TagInfo tag(String address, String unit) {
        return new TagInfo(address, "", address, DataKind.NUMBER, unit, "", false);
    }

    private void release(String source, String list, String by, TagInfo... tags) {
        lists.put(list, List.of(tags));
        released.add(new TagsReleased(source, list, new By(by, T.plusSeconds(released.size()))));
    }

    private void read() {
        await().atMost(Duration.ofSeconds(60)).until(changes::known);
    }

    private String last(String source, String address) {
        return changes.released(new TagRef(source, address))
                .map(each -> each.by() + " " + Duration.between(T, each.at()).toSeconds())
                .orElse("nobody");
    }

    @Test
    void eachReleaseChangesTheTagsThatAreOthersThere() {
        release("a", "1", "anna", tag("power", "kW"), tag("speed", "rpm"));
        release("b", "2", "bert", tag("power", "kW"));
        release("a", "3", "bert", tag("power", "kW"), tag("speed", "1/s"));
        // Something else of the source is changed: its list is the same.
        release("a", "3", "carl", tag("power", "kW"), tag("speed", "1/s"));
        read();
        assertThat(last("a", "power")).isEqualTo("anna 0");
        assertThat(last("a", "speed")).isEqualTo("bert 2");
        assertThat(last("b", "power")).isEqualTo("bert 1");
        assertThat(last("a", "none")).isEqualTo("nobody");
        assertThat(changes.people()).containsExactly("anna", "bert");

        long before = changes.version();
        release("a", "4", "dora", tag("power", "MW"), tag("speed", "1/s"), tag("new", ""));
        assertThat(last("a", "power")).as("not looked through yet").isEqualTo("anna 0");
        read();
        assertThat(changes.version()).isNotEqualTo(before);
        assertThat(last("a", "power")).isEqualTo("dora 4");
        assertThat(last("a", "new")).isEqualTo("dora 4");
        assertThat(last("a", "speed")).isEqualTo("bert 2");
    }

    @Test
    void oneThatWasTakenAwayAndComesAgainIsNew() {
        release("a", "1", "anna", tag("power", "kW"));
        release("a", "", "bert");
        lists.put("", List.of());
        release("a", "1", "carl", tag("power", "kW"));
        read();
        assertThat(last("a", "power")).isEqualTo("carl 2");
    }

    @Test
    void whatIsDraftedCountsForTheTagsThatItChanges() {
        SourceDefinition live = source(tag("power", "kW"), tag("speed", "rpm"));
        when(definitions.live("a")).thenReturn(Optional.of(live));
        assertThat(changes.drafted("a")).isEmpty();
        Draft draft = new Draft(
                "a", 3, live.kind(), "A", Optional.of(source(tag("power", "MW"), tag("speed", "rpm"))), "bert", T);
        when(definitions.draft("a")).thenReturn(Optional.of(draft));
        when(definitions.drafts()).thenReturn(List.of(draft));
        assertThat(changes.drafted("a"))
                .isEqualTo(Map.of(new TagRef("a", "power"), new TagChanges.Change("bert", T, true)));
        assertThat(changes.people()).containsExactly("bert");
        when(definitions.draft("a"))
                .thenReturn(Optional.of(new Draft("a", 4, live.kind(), "A", Optional.empty(), "bert", T)));
        assertThat(changes.drafted("a")).as("removed").isEmpty();
    }

    private static SourceDefinition source(TagInfo... tags) {
        return new SourceDefinition("a", "A", "", "simulated", Map.of(), Duration.ofSeconds(1), List.of(tags));
    }

    @Test
    void nobodyWaitsForADatabaseThatIsAwayAndItIsNotAskedAgainAndAgain() {
        release("a", "1", "anna", tag("power", "kW"));
        when(tables.newestRelease()).thenThrow(new DataAccessResourceFailureException("away"));
        assertThat(changes.known()).isFalse();
        await().atMost(Duration.ofSeconds(60))
                .untilAsserted(() -> verify(tables).newestRelease());
        for (int i = 0; i < 50; i++) {
            assertThat(changes.known()).isFalse();
        }
        verify(tables).newestRelease();
        verify(tables, never()).tagsReleased(anyLong(), anyLong());
        assertThat(last("a", "power")).isEqualTo("nobody");
    }
}
