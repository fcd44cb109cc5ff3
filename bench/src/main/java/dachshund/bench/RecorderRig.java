package dachshund.bench;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.RowStore;
import dachshund.core.row.RowId;
import dachshund.core.time.PlantClock;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.local.LocalStore;
import dachshund.engine.recorder.Recorders;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.engine.when.ActionPool;
import java.nio.file.Path;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;

/** Recorders at work on one destination, put together as the engine does it, without sources. */
final class RecorderRig implements AutoCloseable {

    final CounterBook book = new CounterBook();
    final PlantClock clock = new SystemClock();
    final TagTable tags = new TagTable(clock);
    private final ActionPool actions = new ActionPool();
    final DestinationWriter writer;
    final Recorders recorders;
    private final LocalStore local;
    private final Worker worker;

    RecorderRig(Path folder, RowStore store, Batching batching, List<RecorderDefinition> designs) {
        local = new LocalStore(folder.resolve("local.db"));
        Worker[] waiting = new Worker[1];
        SegmentJournal journal = new SegmentJournal(
                folder.resolve("journal"),
                SegmentJournal.Limits.USUAL,
                local.installation(),
                SegmentJournal.Known.NOTHING,
                () -> Optional.ofNullable(waiting[0]).ifPresent(Worker::wake));
        Offered offered = new Offered(folder.resolve("offered"));
        writer = new DestinationWriter("dest", "bench", journal, offered, store, batching, local, book, clock);
        worker = Threads.start("writer", writer::step);
        waiting[0] = worker;
        Plant plant = new Plant("bench", ZoneOffset.UTC, List.of());
        recorders = new Recorders(
                new RowId(local.installation(), "00000000", local.mintEpoch(clock.now()), 0, 0),
                tags,
                plant,
                id -> Optional.of(writer),
                clock,
                book,
                local,
                actions,
                Hands.THREADS,
                PlantSide.NONE);
        recorders.changeover(designs, plant);
    }

    /** Rows that are not in the destination yet: those that are still to be made, and those on disk. */
    long waiting() {
        return recorders.pending() + writer.waiting();
    }

    @Override
    public void close() {
        recorders.close();
        actions.close();
        worker.close();
        writer.close();
        local.close();
    }
}
