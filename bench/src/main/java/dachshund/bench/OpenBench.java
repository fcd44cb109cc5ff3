package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.when.When;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Journal;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.RowCodec;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneDesign;
import dachshund.engine.local.LocalStore;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.atomic.AtomicLong;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * How long a destination takes to be opened with eight gigabytes in its journal, of 100 recorders, and to have its first rows
 * committed; what the system keeps of the files in memory is dropped before, where it lets us (root). Beside it the plainest
 * look at so many files: their names and lengths.
 */
final class OpenBench implements Bench.Benchmark {

    private static final long GIGABYTES = Long.getLong("bench.gigabytes", 8);
    private static final int LANES = 100;
    private static final int TAGS = 40;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        try (MariaBed bed = new MariaBed()) {
            List<LaneDesign> designs = IntStream.range(0, LANES)
                    .mapToObj(n -> MariaBed.recorder(n, "r" + n, TAGS, new When.Every(Duration.ofSeconds(1))))
                    .peek(recorder -> create(bed, recorder))
                    .map(LaneDesign::of)
                    .toList();
            long rows = fill(folder, designs);
            boolean cold = dropped();
            long from = System.nanoTime();
            long bytes = plainLook(folder);
            double plain = (System.nanoTime() - from) / 1e9;
            AtomicLong first = new AtomicLong();
            Tap tap = new Tap(bed.open());
            tap.onCommit(batches -> first.compareAndSet(0, System.nanoTime()));
            from = System.nanoTime();
            double opened;
            double committed;
            try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                    DestinationWriter writer = writer(folder, local, tap)) {
                opened = (System.nanoTime() - from) / 1e9;
                while (first.get() == 0) {
                    long pause = writer.step();
                    LockSupport.parkNanos(pause);
                }
                committed = (first.get() - from) / 1e9;
                if (writer.waiting() > rows || writer.waiting() < rows - LANES * Batching.MOST_ROWS) {
                    throw new IllegalStateException(writer.waiting() + " rows wait instead of some " + rows + ".");
                }
            }
            System.out.printf(
                    Locale.ROOT,
                    "open: %,d MB of journal, %,d rows of %d recorders%s: opened in %.2f s, first rows committed after %.2f s; names and lengths of its files alone %.3f s%n",
                    bytes >> 20,
                    rows,
                    LANES,
                    cold ? ", nothing of it in memory" : ", as the system has it in memory",
                    opened,
                    committed,
                    plain);
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"open\",\"mb\":%d,\"rows\":%d,\"cold\":%b,\"opened_s\":%.3f,\"first_commit_s\":%.3f,\"plain_s\":%.4f}%n",
                    bytes >> 20,
                    rows,
                    cold,
                    opened,
                    committed,
                    plain);
        }
        try (Stream<Path> all = Files.walk(folder)) {
            for (Path each : all.sorted(Collections.reverseOrder()).toList()) {
                Files.delete(each);
            }
        }
    }

    private static void create(MariaBed bed, RecorderDefinition recorder) {
        try {
            bed.create(recorder);
        } catch (java.sql.SQLException cannot) {
            throw new IllegalStateException(cannot);
        }
    }

    private static DestinationWriter writer(Path folder, LocalStore local, Tap tap) {
        return new DestinationWriter(
                "dest",
                "bench",
                journal(folder, local),
                new Offered(folder.resolve("offered")),
                tap.store(),
                Batching.AT_ONCE,
                local,
                new CounterBook(),
                new SystemClock());
    }

    private static SegmentJournal journal(Path folder, LocalStore local) {
        var known = local.journal("dest");
        return new SegmentJournal(
                folder.resolve("journal"),
                new SegmentJournal.Limits((GIGABYTES + 1) << 30, 0, 16L << 20, 100),
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                () -> {});
    }

    /** As recorders would have left it whose database has been away for long. */
    private static long fill(Path folder, List<LaneDesign> designs) throws Exception {
        long rows = 0;
        try (LocalStore local = new LocalStore(folder.resolve("local.db"));
                SegmentJournal journal = journal(folder, local)) {
            local.knowsJournal("dest", journal.id());
            Object[] cells = new Object[TAGS + 2];
            for (int i = 0; i < TAGS; i++) {
                cells[i + 2] = i * 0.5;
            }
            while (journal.size() < GIGABYTES << 30) {
                LaneDesign design = designs.get((int) (rows % LANES));
                RowId id = new RowId(local.installation(), design.recorder().id(), 1, rows / LANES + 1, 0);
                Instant at = Instant.ofEpochSecond(1_800_000_000L + rows / LANES);
                cells[0] = at;
                cells[1] = id.toString();
                byte[] body = RowCodec.write(design.key(), design.place(), new Row(id, at, cells));
                append(journal, design, body);
                rows++;
            }
        }
        return rows;
    }

    private static void append(SegmentJournal journal, LaneDesign design, byte[] body) throws InterruptedException {
        for (int tried = 0; ; tried++) {
            try {
                journal.append(design.recorder().id(), Journal.Kind.ROW, RowCodec.VERSION, design.asEntry(), body);
                return;
            } catch (Journal.Full slow) {
                if (tried > 10_000) {
                    throw new IllegalStateException(slow);
                }
                Thread.sleep(10);
            }
        }
    }

    private static long plainLook(Path folder) throws IOException {
        try (Stream<Path> files = Files.list(folder.resolve("journal"))) {
            return files.mapToLong(file -> file.toFile().length()).sum();
        }
    }

    private static boolean dropped() throws InterruptedException {
        try {
            new ProcessBuilder("sync").start().waitFor();
            Files.writeString(Path.of("/proc/sys/vm/drop_caches"), "3");
            return true;
        } catch (IOException mayNot) {
            return false;
        }
    }
}
