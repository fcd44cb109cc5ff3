package dachshund.engine.lane;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.journal.Journal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import org.junit.jupiter.api.Test;

/** What the ledger is told of rows that have landed: every row once, whatever ends in between. */
class LandingsTest extends WriterRig {

    private final List<Landed> told = new CopyOnWriteArrayList<>();
    private long sequence = 1;

    private static final RecorderDefinition PLAIN = recorder(A, "lots", true, false);
    private static final RecorderDefinition LOTS = PLAIN.withLayout(
                    PLAIN.layout().plus(Column.of("lot", SqlType.text(200), new ColumnSource.Constant("x"))))
            .withKeys(List.of("lot"));

    private void hear() {
        writer.tellLanded(told::add);
    }

    private void take(RecorderDefinition recorder, String... lots) throws Journal.Full {
        LaneDesign design = writer.design(recorder);
        for (String lot : lots) {
            RowId id = new RowId(local.installation(), recorder.id(), epoch, sequence++, 0);
            List<Object> cells = new ArrayList<>();
            for (Column column : recorder.layout().written()) {
                cells.add(
                        column.isRowId()
                                ? id.toString()
                                : column.name().equals("lot") ? lot.isEmpty() ? null : lot : clock.now());
            }
            book.due(recorder.id(), clock.now(), 1);
            writer.take(design, new Row(id, clock.now(), cells.toArray()));
            clock.pass(Duration.ofMillis(10));
        }
        onDisk();
        drain();
    }

    /** So long passes, and it is looked at. */
    private void pass(Duration length) {
        clock.pass(length);
        writer.step();
        stepOn();
    }

    private long rows() {
        return told.stream().mapToLong(Landed::rows).sum();
    }

    @Test
    void rowsOfAMinuteAreOneLineWithTheValuesThatTheyAreFoundBy() throws Exception {
        hear();
        Instant begun = clock.now();
        take(LOTS, "PL1-7", "PL1-7", "", "PL1-8");
        assertThat(told).isEmpty();
        pass(Landings.WITH_KEYS);
        soon(() -> told.size() == 1);
        Landed landed = told.get(0);
        assertThat(landed.rows()).isEqualTo(4);
        assertThat(landed.recorder()).isEqualTo(A);
        assertThat(landed.name()).isEqualTo("Recorder " + A);
        assertThat(landed.into()).isEqualTo("lots in Records");
        assertThat(landed.keys()).isEqualTo(Map.of("lot", List.of("PL1-7", "PL1-8")));
        assertThat(landed.first()).isEqualTo(begun);
        assertThat(landed.last()).isEqualTo(begun.plusMillis(30));
        pass(Landings.WITH_KEYS);
        assertThat(told).as("nothing more has landed").hasSize(1);
        take(LOTS, "PL1-9");
        pass(Landings.WITH_KEYS);
        soon(() -> told.size() == 2);
        assertThat(told.get(1).id()).isNotEqualTo(landed.id());
    }

    /** A lot that goes on for hours is no line a minute. */
    @Test
    void theSameValuesAgainAreALineEachTenMinutesAndANewOneIsThereWithinAMinute() throws Exception {
        hear();
        take(LOTS, "PL1-7");
        pass(Landings.WITH_KEYS);
        soon(() -> told.size() == 1);
        for (int minute = 0; minute < 9; minute++) {
            take(LOTS, "PL1-7");
            pass(Landings.WITH_KEYS);
        }
        assertThat(told).hasSize(1);
        pass(Landings.WITH_KEYS);
        soon(() -> told.size() == 2);
        take(LOTS, "PL1-7", "PL1-8");
        pass(Landings.WITH_KEYS);
        soon(() -> told.size() == 3);
        assertThat(told.get(2).keys()).isEqualTo(Map.of("lot", List.of("PL1-7", "PL1-8")));
        assertThat(rows()).isEqualTo(12);
    }

    @Test
    void withoutKeysItIsALineAnHourAndAtAStopWhateverThereIs() throws Exception {
        hear();
        take(PLAIN, "", "");
        pass(Landings.WITH_KEYS);
        take(PLAIN, "");
        assertThat(told).isEmpty();
        pass(Landings.WITHOUT);
        soon(() -> rows() == 3);
        take(PLAIN, "");
        restart();
        assertThat(rows()).isEqualTo(4);
        assertThat(told).hasSize(2);
        hear();
        pass(Landings.WITHOUT);
        assertThat(rows()).as("none is told of twice").isEqualTo(4);
    }

    @Test
    void moreValuesThanALineHoldsAndAnotherDesignAreLinesOfTheirOwn() throws Exception {
        hear();
        for (int i = 0; i < 2 * Landings.MOST_VALUES + 1; i++) {
            take(LOTS, "lot " + i);
        }
        soon(() -> told.size() == 2);
        take(PLAIN, "");
        take(LOTS, "x".repeat(121));
        restart();
        assertThat(rows()).isEqualTo(2 * Landings.MOST_VALUES + 3);
        assertThat(told.stream().flatMap(each -> each.keys().getOrDefault("lot", List.of()).stream()))
                .hasSize(2 * Landings.MOST_VALUES + 1)
                .doesNotHaveDuplicates();
    }

    /** What had landed when it died, and was not told of, is told as a number. */
    @Test
    void whatLandedJustBeforeADeathIsToldAsANumber() throws Exception {
        hear();
        take(LOTS, "PL1-7", "PL1-7");
        pass(Landings.WITH_KEYS);
        soon(() -> rows() == 2);
        // It is told first and remembered then; before, it was remembered that nothing was told yet.
        String before = "2";
        soon(() -> local.remembered("landed told " + A + ":dest").equals(Optional.of(before)));
        take(LOTS, "PL1-8", "PL1-8", "PL1-8");
        restart();
        // As a death would have left it: the rows have landed, and nobody was told.
        told.removeIf(each -> each.rows() == 3);
        local.remember("landed told " + A + ":dest", before);
        hear();
        soon(() -> rows() == 5);
        assertThat(told.get(1).into()).contains("before the application ended");
        restart();
        hear();
        take(LOTS, "PL1-9");
        restart();
        assertThat(rows()).isEqualTo(6);
    }

    @Test
    void aNewLaneThatDiesBeforeItsFirstLineIsToldOfAsANumberToo() throws Exception {
        hear();
        take(LOTS, "PL1-7", "PL1-7");
        soon(() -> local.remembered("landed told " + A + ":dest").equals(Optional.of("0")));
    }

    /** An installation of before told nobody, and does not tell of years of rows now. */
    @Test
    void whatLandedBeforeAnybodyListenedIsNotTold() throws Exception {
        take(LOTS, "PL1-7");
        restart();
        hear();
        take(LOTS, "PL1-8");
        restart();
        assertThat(rows()).isEqualTo(1);
    }

    /** The line of one lane cannot be told: that of the other is, and so is the next of the same. */
    @Test
    void oneLineThatCannotBeToldKeepsNoOtherBack() throws Exception {
        RecorderDefinition other = recorder(B, "others", true, false);
        writer.tellLanded(landed -> {
            if (landed.recorder().equals(A) && landed.rows() == 1) {
                throw new IllegalStateException("not this one");
            }
            told.add(landed);
        });
        take(PLAIN, "");
        take(other, "");
        pass(Landings.WITHOUT);
        soon(() -> told.size() == 1 && told.get(0).recorder().equals(B));
        take(PLAIN, "", "");
        pass(Landings.WITHOUT);
        soon(() -> told.size() == 2 && told.get(1).rows() == 2);
        adds(A, 3, 0);
    }

    @Test
    void whoeverListensAndThrowsHoldsUpNoRow() throws Exception {
        writer.tellLanded(landed -> {
            throw new IllegalStateException("the ledger is ill");
        });
        take(LOTS, "PL1-7");
        pass(Landings.WITH_KEYS);
        take(LOTS, "PL1-8");
        adds(A, 2, 0);
    }
}
