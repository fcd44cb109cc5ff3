package dachshund.office.design;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.office.design.DesignList.Page;
import dachshund.office.design.DesignList.Query;
import dachshund.office.filing.Filed;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class DesignListTest {

    private static final Instant NOON = Instant.parse("2026-05-01T12:00:00Z");

    private static Design source(String name, String description, String state, String by, int day) {
        return new Design(
                new SourceDefinition(
                        "000000" + (10 + day), name, description, "opcua", Map.of(), Duration.ofSeconds(1), List.of()),
                state,
                "",
                "",
                by,
                NOON.plus(Duration.ofDays(day)),
                new Filed("Hall 2 / Heat", List.of("energy")),
                false);
    }

    private static final List<Design> ALL = List.of(
            source("Kiln", "west of the yard", "Connected", "ada", 1),
            source("boiler", "Steam for the kiln", "Away", "ben", 3),
            new Design(
                    new DestinationDefinition("000000aa", "Quality", "", "sqlite", Map.of()),
                    "",
                    "",
                    "",
                    "ada",
                    NOON.plus(Duration.ofDays(2)),
                    new Filed("Hall 20", List.of()),
                    true));

    private static List<String> names(Query query) {
        return DesignList.page(ALL, query).lines().stream().map(Design::name).toList();
    }

    @ParameterizedTest
    @CsvSource({
        "'', '', '', '', boiler Kiln Quality",
        "'kiln steam', '', '', '', boiler",
        "'STEAM kiln', '', '', '', boiler",
        "'kiln', '', '', '', boiler Kiln",
        "'energy hall', '', '', '', boiler Kiln",
        "'destination', '', '', '', Quality",
        "'000000aa', '', '', '', Quality",
        "'nowhere kiln', '', '', '', ''",
        "'', SOURCE, '', '', boiler Kiln",
        "'', SOURCE, Away, '', boiler",
        "'', '', '', ada, Kiln Quality",
        "'', '', Gone, '', ''"
    })
    void whatIsAskedForIsFound(String words, String kind, String state, String who, String found) {
        assertThat(String.join(" ", names(new Query(words, kind, state, "", who, "name", 1))))
                .isEqualTo(found);
    }

    @ParameterizedTest
    @CsvSource({
        "name, boiler Kiln Quality",
        "kind, boiler Kiln Quality",
        "state, Quality boiler Kiln",
        "who, Kiln Quality boiler",
        "folder, boiler Kiln Quality",
        "when, boiler Quality Kiln",
        "anything, boiler Kiln Quality"
    })
    void itIsSorted(String sort, String order) {
        assertThat(String.join(" ", names(new Query("", "", "", "", "", sort, 1))))
                .isEqualTo(order);
    }

    @ParameterizedTest
    @CsvSource({
        "'', boiler Kiln Quality",
        "Hall 2, boiler Kiln",
        "Hall 2 / Heat, boiler Kiln",
        "Hall 20, Quality",
        "Hall, ''"
    })
    void aFolderHasWhatStandsInItAndBelow(String folder, String found) {
        assertThat(String.join(" ", names(new Query("", "", "", folder, "", "name", 1))))
                .isEqualTo(found);
    }

    @Test
    void pagesFollowEachOtherWithoutGapAndAPageBehindTheLastIsTheLast() {
        List<Design> many = new ArrayList<>();
        for (int i = 0; i < 101; i++) {
            many.add(source(String.format("Source %03d", 100 - i), "", "", "", 1));
        }
        List<String> seen = new ArrayList<>();
        for (int page = 1; page <= 3; page++) {
            Page found = DesignList.page(many, new Query("source", "", "", "", "", "name", page));
            assertThat(found.all()).isEqualTo(101);
            assertThat(found.pages()).isEqualTo(3);
            found.lines().forEach(each -> seen.add(each.name()));
        }
        assertThat(seen).hasSize(101).doesNotHaveDuplicates().isSorted();
        assertThat(DesignList.page(many, new Query("", "", "", "", "", "name", 99))
                        .page())
                .isEqualTo(3);
        assertThat(DesignList.page(List.of(), new Query("", "", "", "", "", "name", 0))
                        .page())
                .isEqualTo(1);
    }
}
