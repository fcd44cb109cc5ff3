package dachshund.engine.lane;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.layout.Upkeep;
import dachshund.engine.local.LocalStore;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;

/** Rows of a lane that a corrected design should free: looked at, given to it, or discarded. */
class HeldRowsTest extends WriterRig {

    private final RecorderDefinition wrong =
            recorder(A, "gone", true, false).withWheres(List.of(new Where("dest", "gone", Upkeep.NONE, false)));
    private final RecorderDefinition right = recorder(A, "a", true, false);

    private void faulted() throws Exception {
        take(wrong, 1, 1001);
        take(recorder(B, "b", true, false), 1, 11);
        until(() -> status(A).state() == LaneState.FAULTED && sequences("b").size() == 10);
        // The design is corrected: what is made from now on is behind what is held.
        take(right, 1001, 1011);
        steps(50);
        assertThat(status(A).state()).isEqualTo(LaneState.FAULTED);
        assertThat(status(A).waiting()).isEqualTo(1010);
    }

    private List<HeldRow> held(long after, int most) throws Exception {
        onDisk(); // rows are shown when they are
        CompletableFuture<List<HeldRow>> asked = writer.held(A, after, most);
        stepOn();
        return asked.get();
    }

    @Test
    void theyCanBeLookedAtInPages() throws Exception {
        faulted();
        List<Long> all = new ArrayList<>();
        for (List<HeldRow> page = held(0, 300); !page.isEmpty(); page = held(all.get(all.size() - 1), 300)) {
            page.forEach(row -> all.add(row.nth()));
        }
        assertThat(all).isEqualTo(upTo(1010));
        assertThat(held(0, 1).get(0).design().orElseThrow().where().table()).isEqualTo("gone");
        assertThat(held(1009, 5).get(0).design().orElseThrow().where().table()).isEqualTo("a");
        assertThat(status(A).waiting()).as("looking changes nothing").isEqualTo(1010);
    }

    @Test
    void givenToTheCorrectedDesignTheyLandInOrderBeforeTheNewOnes() throws Exception {
        faulted();
        writer.give(A, 1000, right, ZoneOffset.UTC);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(1010));
        adds(A, 1010, 0);
        assertThat(status(A).state()).isEqualTo(LaneState.RECORDING);
        assertThat(writer.said(A)).anyMatch(line -> line.words().contains("given to another design"));
    }

    @Test
    void whatWasDecidedStandsOverARestart() throws Exception {
        faulted();
        store.away = true;
        writer.give(A, 1000, right, ZoneOffset.UTC);
        restart();
        steps(20);
        assertThat(store.rows("a")).isEmpty();
        store.away = false;
        drain();
        assertThat(sequences("a")).hasSize(1010);
        adds(A, 1010, 0);
    }

    @Test
    void discardedTheyAreCountedAndTheRowsBehindThemLand() throws Exception {
        faulted();
        writer.discard(A, 1000);
        drain();
        assertThat(sequences("a"))
                .isEqualTo(List.of(1001L, 1002L, 1003L, 1004L, 1005L, 1006L, 1007L, 1008L, 1009L, 1010L));
        adds(A, 10, 0);
        assertThat(status(A).account().discarded()).isEqualTo(1000);
        assertThat(book.hour(A, clock.now()).stream()
                        .mapToLong(minute -> minute.held())
                        .sum())
                .as("held in no minute any more")
                .isZero();
        restart();
        assertThat(status(A).account().discarded()).isEqualTo(1000);
    }

    @Test
    void aDecisionThatNobodyCanReadAnyMoreIsSaidAndStopsNothing() throws Exception {
        faulted();
        close();
        try (LocalStore before = new LocalStore(folder.resolve("local.db"))) {
            before.decide(Lane.name(A, "dest"), new LocalStore.Decided(0, 1000, "{of a later version", "UTC"));
        }
        epoch++;
        open();
        assertThat(writer.said(A)).anyMatch(line -> line.words().contains("cannot be read"));
        take(recorder(B, "b", true, false), 11, 21);
        until(() -> sequences("b").size() == 20);
        assertThat(status(A).waiting()).isEqualTo(1010);
        writer.discard(A, 1000);
        drain();
        adds(A, 10, 0);
    }

    @Test
    void onlyWhatWasSeenIsDiscardedAndALaneThatIsBusyIsNoOtherWay() throws Exception {
        boolean[] busy = {true};
        store.thrower = batch -> {
            if (busy[0] && batch.table().equals("a")) {
                throw new StoreProblem(Kind.BUSY, 0, "The table a is locked.", null);
            }
        };
        take(right, 1, 101);
        until(() -> status(A).state() == LaneState.HOLDING);
        long seen = held(0, 1000).get(49).nth();
        take(right, 101, 111);
        writer.discard(A, seen);
        steps(20);
        busy[0] = false;
        drain();
        assertThat(sequences("a")).hasSize(60).startsWith(51L);
        adds(A, 60, 0);
        assertThat(status(A).account().discarded()).isEqualTo(50);
    }

    @Test
    void aRowThatDoesNotFitTheDesignItIsGivenToIsSetAsideAndItsNeighboursLand() throws Exception {
        faulted();
        RecorderDefinition stricter = right.withLayout(right.layout()
                .plus(new dachshund.core.layout.Column(
                        "lot",
                        dachshund.core.layout.SqlType.text(10),
                        new dachshund.core.layout.ColumnSource.FromTag(
                                new dachshund.core.tag.TagRef("s", "lot"),
                                dachshund.core.layout.ColumnSource.Aspect.VALUE),
                        true,
                        dachshund.core.layout.BadQuality.WRITE_NULL)));
        writer.give(A, 50, stricter, ZoneOffset.UTC);
        until(() -> status(A).account().aside() == 50);
        assertThat(local.aside().newest(A, 5).get(0).reason()).contains("lot is required");
        writer.discard(A, 1000);
        drain();
        adds(A, 10, 50);
        assertThat(status(A).account().discarded()).isEqualTo(950);
    }

    /** A loss of power takes rows that were decided about; those to come get their running numbers. */
    @Test
    void whatWasDecidedNeverReachesRowsThatWereMadeLater() throws Exception {
        take(right, 1, 11);
        drain();
        close();
        try (LocalStore before = new LocalStore(folder.resolve("local.db"))) {
            before.decide(Lane.name(A, "dest"), new LocalStore.Decided(0, 1000, "", "UTC"));
        }
        epoch++;
        open();
        take(right, 11, 31);
        restart();
        take(right, 31, 41);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(40));
        adds(A, 40, 0);
        assertThat(status(A).account().discarded()).isZero();
    }

    /** Whoever has rows discarded does not know that some of them have landed, and nobody has answered that they have. */
    @Test
    void whatHasLandedAlreadyIsNotCountedAsDiscarded() throws Exception {
        landedUnanswered(10);
        writer.discard(A, 10);
        take(right, 11, 21);
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(20));
        adds(A, 20, 0);
        assertThat(status(A).account().discarded()).isZero();
    }

    private void landedUnanswered(int rows) throws Exception {
        store.awayAfterCommit = 1;
        take(right, 1, rows + 1);
        onDisk(); // all of them go out in one batch
        until(() -> store.rows("a").size() == rows);
        store.awayAfterCommit = 0;
        assertThat(status(A).waiting()).isEqualTo(rows);
    }

    /** The way out of a destination that will never answer again stays open. */
    @Test
    void whereNobodyAnswersWhatHasLandedIsDiscardedAllTheSameAndThatIsSaid() throws Exception {
        landedUnanswered(10);
        store.away = true;
        writer.discard(A, 10);
        until(() -> status(A).waiting() == 0);
        assertThat(status(A).account().discarded()).isEqualTo(10);
        assertThat(writer.said(A)).anyMatch(line -> line.words().contains("could not be asked"));
    }

    /** Given to another design they landed there, and nobody answered: they are not given a second time. */
    @Test
    void whatLandedAsTheOtherDesignDoesNotLandAgain() throws Exception {
        faulted();
        store.awayAfterCommit = 1;
        writer.give(A, 1000, right, ZoneOffset.UTC);
        until(() -> !store.rows("a").isEmpty());
        restart();
        store.awayAfterCommit = 0;
        drain();
        assertThat(sequences("a")).isEqualTo(upTo(1010));
        adds(A, 1010, 0);
    }

    /** Rows behind those that were discarded moved the mark on; how far the lane is was not on disk when it all ended. */
    @Test
    void whatWasDiscardedHasNotLandedThoughTheMarkStandsBehindIt() throws Exception {
        restartWhereTheDiskMayRefuse();
        RecorderDefinition marked = recorder(A, "m", false, true);
        take(marked, 1, 4);
        drain();
        boolean[] busy = {true};
        store.thrower = batch -> {
            if (busy[0]) {
                throw new StoreProblem(Kind.BUSY, 0, "The table m is locked.", null);
            }
        };
        take(marked, 4, 11);
        until(() -> status(A).state() == LaneState.HOLDING);
        writer.discard(A, 10);
        refuses = "settle"::equals;
        busy[0] = false;
        take(marked, 11, 21);
        drain();
        assertThat(store.rows("m")).hasSize(13);
        restart();
        drain();
        assertThat(store.rows("m")).hasSize(13);
        adds(A, 13, 0);
        assertThat(status(A).account().discarded()).isEqualTo(7);
    }

    /** What was sent again is aside no more; met once more on the way it would be refused and set aside a second time. */
    @Test
    void aRowThatWasSetAsideIsNotMetAgainThoughHowFarTheLaneIsWasNotOnDisk() throws Exception {
        restartWhereTheDiskMayRefuse();
        refuses = "settle"::equals;
        store.thrower = batch -> {
            if (batch.rows().stream().anyMatch(row -> row.id().sequence() == 5)) {
                throw new StoreProblem(Kind.CONTENT, 0, "It does not fit.", null);
            }
        };
        take(right, 1, 11);
        drain();
        adds(A, 9, 1);
        local.aside().letGo(List.of(local.aside().newest(A, 1).get(0).id()));
        restart();
        drain();
        assertThat(local.aside().newest(A, 5)).isEmpty();
        adds(A, 9, 1);
    }

    /** Nothing is discarded before it is noted from where on; another lane does not wait for that. */
    @Test
    void whereItCannotBeNotedWhereADecisionBeginsItsLaneSaysSoAndTheOthersGoOn() throws Exception {
        restartWhereTheDiskMayRefuse();
        faulted();
        AtomicInteger decides = new AtomicInteger();
        refuses = method -> method.equals("decide") && decides.incrementAndGet() > 1;
        writer.discard(A, 1000);
        take(recorder(B, "b", true, false), 11, 21);
        until(() -> sequences("b").size() == 20);
        until(() -> writer.said(A).stream().anyMatch(line -> line.words().contains("the disk does not answer")));
        assertThat(status(A).account().discarded()).isZero();
        assertThat(status(A).state()).isEqualTo(LaneState.FAULTED);
        refuses = method -> false;
        drain();
        adds(A, 10, 0);
        assertThat(status(A).account().discarded()).isEqualTo(1000);
    }
}
