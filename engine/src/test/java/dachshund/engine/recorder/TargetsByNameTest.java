package dachshund.engine.recorder;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.recorder.RecorderRun.Target;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** Rows find the destination that they name; a name that none has loses nothing, is said, and does not fill the memory. */
class TargetsByNameTest {

    private static final Layout LAYOUT =
            new Layout(List.of(Column.of("mill", SqlType.text(40), new ColumnSource.Constant("?"))));
    private static final Where WHERE =
            new Where("usual", "t", Upkeep.NONE, false, new WriteMode.Insert(), "", "", "{mill} records");
    private static final RecorderDefinition DESIGN = new RecorderDefinition(
            "aaaaaaaa", "Mills", "", List.of(new When.Every(Duration.ofSeconds(1))), LAYOUT, List.of(WHERE));

    private final DestinationWriter writer = mock(DestinationWriter.class);
    private final List<String> asked = new ArrayList<>();
    private final Target there = new Target(WHERE.into("there"), writer, LaneDesign.of(DESIGN));
    private final Target usual = new Target(WHERE, writer, LaneDesign.of(DESIGN), name -> {
        asked.add(name);
        return name.equals("HM1 records") ? Optional.of(there) : Optional.empty();
    });
    private final TargetsByName targets = new TargetsByName(usual);

    private Target of(String mill) {
        Row row = new Row(new RowId("000001", "aaaaaaaa", 1, 1, 0), Instant.EPOCH, new Object[] {mill});
        return targets.of(row, LAYOUT, new Plant("Quillmoor", ZoneOffset.UTC, List.of()).facts(DESIGN));
    }

    @Test
    void aNameIsLookedUpOnceWhetherItIsThereOrNot() {
        for (int i = 0; i < 3; i++) {
            assertThat(of("HM1")).isSameAs(there);
            assertThat(of("HM2")).isSameAs(usual);
        }
        assertThat(asked).containsExactly("HM1 records", "HM2 records");
    }

    @Test
    void theFirstNamesThatNoDestinationHasAreSaidAndTheOthersCounted() {
        assertThat(of("HM1")).isSameAs(there);
        assertThat(targets.astray()).isEmpty();
        of("A");
        assertThat(targets.astray())
                .isEqualTo("There is no destination named A records; such rows go to the usual one.");
        for (String mill : List.of("B", "C", "D", "E")) {
            of(mill);
        }
        assertThat(targets.astray())
                .isEqualTo(
                        "There is no destination named A records, B records, C records and 2 others; such rows go to the usual one.");
    }

    @Test
    void aNameWithTheTimeInItDoesNotFillTheMemory() {
        for (int i = 0; i < 5000; i++) {
            assertThat(of("lot " + i)).isSameAs(usual);
        }
        assertThat(targets.astray()).contains("and 97 or more others");
        assertThat(of("HM1")).as("one that is there is found all the same").isSameAs(there);
    }

    @Test
    void aRowWithoutTheValueGoesToTheUsualOne() {
        assertThat(of(null)).isSameAs(usual);
        assertThat(targets.astray()).contains("none records");
    }
}
