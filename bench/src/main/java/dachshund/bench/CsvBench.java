package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.Batching;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.links.file.FolderKind;
import java.io.BufferedWriter;
import java.io.FileOutputStream;
import java.io.OutputStreamWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Stream;

/**
 * Rows a second into a CSV file of 8 columns, forced to disk after every thousand: by the file destination, and along the whole
 * path from a tag change through journal and writer; both against a bare buffered writer that makes the same lines and forces
 * the file as often. The three alternate in slices; medians are reported.
 */
final class CsvBench implements Bench.Benchmark {

    private static final int PLAIN = 0;
    private static final int ALONE = 1;
    private static final int PATH = 2;
    private static final int SIDES = 3;
    private static final int SLICES = 15;
    private static final int ROWS = 50_000;
    private static final int FLUSH = 1000;
    private static final int VALUES = 6;
    private static final int MOST_HELD = 40_000;

    @Override
    public void run() throws Exception {
        Path folder = Files.createTempDirectory("dachshund-bench");
        Machine machine = new Machine();
        Layout layout = new Layout(List.of(
                Layout.proposed().columns().get(1), Layout.proposed().columns().get(2)));
        for (int i = 0; i < VALUES; i++) {
            layout = layout.plus(Column.of(
                    "v" + i,
                    SqlType.DOUBLE,
                    new ColumnSource.FromTag(new TagRef("s", "v" + i), ColumnSource.Aspect.VALUE)));
        }
        RecorderDefinition design = new RecorderDefinition(
                "00000001",
                "bench",
                "",
                List.of(new When.OnChange(Deadband.NONE, List.of(new TagRef("s", "v0")), Duration.ZERO, Duration.ZERO)),
                layout,
                List.of(new Where("dest", "rows", new Upkeep(true, false), false)));
        System.out.printf(
                "csv: %d slices of %,d rows of %d columns each side, alternating; forced to disk after every %,d rows on all; floors: fsync %.2f ms%n%n",
                SLICES, ROWS, VALUES + 2, FLUSH, Machine.fsyncMillis(folder));
        double[][] figures = new double[2 * SIDES][SLICES];
        long[] sequence = new long[SIDES];
        FolderKind kind = new FolderKind(folder, ZoneOffset.UTC);
        try (RowStore store = kind.open(Map.of("folder", "alone", "format", "csv"));
                RecorderRig rig = new RecorderRig(
                        folder.resolve("ours"),
                        kind.open(Map.of("folder", "path", "format", "csv")),
                        new Batching(FLUSH, Duration.ZERO),
                        List.of(design))) {
            offer(rig, 1, sequence);
            for (int slice = -2; slice < SLICES; slice++) {
                for (int turn = 0; turn < SIDES; turn++) {
                    int side = Math.floorMod(slice + turn, SIDES);
                    long cpu = Machine.processCpuNanos();
                    long from = System.nanoTime();
                    switch (side) {
                        case PLAIN -> plain(folder.resolve("plain.csv"), sequence);
                        case ALONE -> alone(store, layout, sequence);
                        default -> path(rig, sequence);
                    }
                    if (slice >= 0) {
                        figures[side][slice] = ROWS / ((System.nanoTime() - from) / 1e9);
                        figures[SIDES + side][slice] = (Machine.processCpuNanos() - cpu) / 1e3 / ROWS;
                    }
                }
            }
        }
        for (String name : List.of("alone", "path")) {
            try (Stream<String> all = Files.lines(folder.resolve(name + "/rows.csv"))) {
                long lines = all.distinct().count();
                if (lines != (SLICES + 2L) * ROWS + 1) {
                    throw new IllegalStateException("Rows are missing or doubled: " + lines);
                }
            }
        }
        double plain = Machine.median(figures[PLAIN]);
        double alone = Machine.median(figures[ALONE]);
        double path = Machine.median(figures[PATH]);
        double steal = machine.stealPercent();
        System.out.printf(
                Locale.ROOT,
                "bare writer %,.0f rows/s, CPU a row %.1f us%nfile destination %,.0f rows/s, ratio %.2f, CPU a row %.1f us%nwhole path, journal included %,.0f rows/s, ratio %.2f, CPU a row %.1f us%nsteal %.1f %%%s%n",
                plain,
                Machine.median(figures[SIDES + PLAIN]),
                alone,
                alone / plain,
                Machine.median(figures[SIDES + ALONE]),
                path,
                path / plain,
                Machine.median(figures[SIDES + PATH]),
                steal,
                steal > 5 ? ": VOID, above 5 %" : "");
        System.out.printf(
                Locale.ROOT,
                "{\"bench\":\"csv\",\"ratio\":%.3f,\"path_ratio\":%.3f,\"rows_per_s\":%.0f,\"path_rows_per_s\":%.0f,\"plain_rows_per_s\":%.0f,\"steal_percent\":%.1f,\"void\":%b}%n",
                alone / plain,
                path / plain,
                alone,
                path,
                plain,
                steal,
                steal > 5);
    }

    private static void offer(RecorderRig rig, int count, long[] sequence) {
        for (int n = 0; n < count; n++) {
            long at = sequence[PATH]++;
            Instant now = rig.clock.now();
            List<TagChange> batch = new ArrayList<>(VALUES);
            for (int i = 0; i < VALUES; i++) {
                batch.add(new TagChange("v" + i, TagValue.good(at + i * 0.5, now)));
            }
            rig.tags.offer("s", batch);
            if (n % 256 == 0) {
                while (rig.waiting() > MOST_HELD) {
                    LockSupport.parkNanos(500_000);
                }
            }
        }
    }

    /** Rows as a writer has them in its hands, batch by batch. */
    private static void alone(RowStore store, Layout layout, long[] sequence) throws StoreProblem {
        List<Row> rows = new ArrayList<>(FLUSH);
        for (int n = 0; n < ROWS; n++) {
            long at = sequence[ALONE]++;
            Instant now = Instant.now();
            RowId id = new RowId("ffffff", "00000001", 1, at + 1, 0);
            Object[] cells = new Object[VALUES + 2];
            cells[0] = now;
            cells[1] = id.toString();
            for (int i = 0; i < VALUES; i++) {
                cells[i + 2] = at + i * 0.5;
            }
            rows.add(new Row(id, now, cells));
            if (rows.size() == FLUSH) {
                store.write(List.of(new RowBatch("bench", "rows", layout, false, new WriteMode.Insert(), rows)));
                rows = new ArrayList<>(FLUSH);
            }
        }
    }

    private static void path(RecorderRig rig, long[] sequence) {
        offer(rig, ROWS, sequence);
        while (rig.waiting() > 0) {
            LockSupport.parkNanos(200_000);
        }
    }

    private static void plain(Path file, long[] sequence) throws Exception {
        try (FileOutputStream out = new FileOutputStream(file.toFile(), true);
                BufferedWriter writer =
                        new BufferedWriter(new OutputStreamWriter(out, StandardCharsets.UTF_8), 1 << 16)) {
            for (int n = 0; n < ROWS; n++) {
                long at = sequence[PLAIN]++;
                writer.append(Instant.now().toString())
                        .append(',')
                        .append(new RowId("ffffff", "00000001", 1, at + 1, 0).toString());
                for (int i = 0; i < VALUES; i++) {
                    writer.append(',').append(Double.toString(at + i * 0.5));
                }
                writer.append("\r\n");
                if ((n + 1) % FLUSH == 0) {
                    writer.flush();
                    out.getChannel().force(true);
                }
            }
        }
    }
}
