package dachshund.bench;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Column;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.definition.Definition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Density;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.archive.Archive;
import dachshund.engine.clock.SystemClock;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.tag.TagTable;
import dachshund.office.archive.BlockTable;
import dachshund.office.archive.BlockTable.Pieces;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.standins.plant.PelletWorks;
import dachshund.standins.plant.PlantTag;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.IntStream;
import org.flywaydb.core.Flyway;

/**
 * Seven days of the demo's tags into the archive, beside plain rows (tag, time, value, quality) in the same MariaDB by inserts
 * of 1,000 rows: as blocks alone, and by the live way through tag table and journal. Blocks and plain rows are given the same,
 * eight hours of one tag after the other, as a file with history is read; the live way is given what changed at each step of
 * the plant. Rounds of a day alternate, what was left behind is cleared away before each; medians are reported. On disk the
 * files of all tables count as they lie there, after the blocks were put together.
 */
final class ArchiveBench implements Bench.Benchmark {

    private static final String SOURCE = "5ca1ab1e";
    /** What goes the live way are tags of their own. */
    private static final String LIVE = "5ca1ab1f";

    private static final int DAYS = 7;
    private static final Duration STEP = Duration.ofSeconds(5);
    private static final int ROWS_AT_ONCE = 1000;
    private static final int COMMIT_EVERY = 100;

    private HikariDataSource pool;
    private BlockTable table;

    /** What changed at one step of the plant. */
    private record Step(long time, List<TagChange> changes) {}

    /** What one tag did for a while. */
    private static final class History {
        private final TagRef ref;
        private long[] times = new long[64];
        private Object[] values = new Object[64];
        private int size;

        History(TagRef ref) {
            this.ref = ref;
        }

        void add(long time, Object value) {
            if (size == times.length) {
                times = Arrays.copyOf(times, 2 * size);
                values = Arrays.copyOf(values, 2 * size);
            }
            times[size] = time;
            values[size++] = value;
        }
    }

    @Override
    public void run() throws Exception {
        Machine machine = new Machine();
        Path folder = Files.createTempDirectory("archive-bench");
        try (PrivateMariaDb server = new PrivateMariaDb();
                HikariDataSource open = new HikariDataSource()) {
            pool = open;
            pool.setJdbcUrl(server.url("archived") + "&createDatabaseIfNotExist=true&timezone=UTC");
            Flyway.configure().dataSource(pool).load().migrate();
            table = new BlockTable(pool);
            execute("CREATE TABLE plain (tag BIGINT NOT NULL, time BIGINT NOT NULL, value DOUBLE, quality INT NOT NULL,"
                    + " PRIMARY KEY (tag, time))");
            PelletWorks plant = new PelletWorks(7, Instant.parse("2026-11-20T00:00:00Z"));
            double[] plain = new double[DAYS];
            double[] blocks = new double[DAYS];
            double[] live = new double[DAYS];
            long values = 0;
            blocks(histories(day(plant))); // so that the machine is warm
            execute("DELETE FROM archive_block");
            for (int day = 0; day < DAYS; day++) {
                List<Step> steps = day(plant);
                long count =
                        steps.stream().mapToLong(each -> each.changes().size()).sum();
                values += count;
                List<List<History>> histories = histories(steps);
                blocks[day] = count / timed(() -> blocks(histories));
                plain[day] = count / timed(() -> plain(histories));
                histories.clear();
                live[day] = count / timed(() -> live(steps, folder));
                execute("DELETE FROM archive_lane");
                System.out.printf(
                        Locale.ROOT,
                        "day %d: %,d values; blocks %,.0f a second, plain rows %,.0f, live %,.0f%n",
                        day + 1,
                        count,
                        blocks[day],
                        plain[day],
                        live[day]);
            }
            long together = System.nanoTime();
            for (List<Pieces> some = table.inPieces(Long.MAX_VALUE, 1, 500);
                    !some.isEmpty();
                    some = table.inPieces(Long.MAX_VALUE, 1, 500)) {
                for (Pieces each : some) {
                    table.putTogether(each.tag(), each.span(), Long.MAX_VALUE);
                }
            }
            double seconds = (System.nanoTime() - together) / 1e9;
            double bytesOfRow = (double) size("plain") / values;
            double bytes = (double) (size("archive_block") + size("archive_tag") + size("archive_hour")) / stored();
            double data = (double) one("SELECT SUM(bytes) FROM archive_block") / stored();
            double byPlain = Machine.median(plain);
            double byBlocks = Machine.median(blocks);
            double byLive = Machine.median(live);
            System.out.printf(
                    Locale.ROOT,
                    "%narchive: %,d values of %d days, %d tags%nplain rows %,.0f a second, %.1f bytes a row on disk%nblocks     %,.0f a second (%.1f x), %.2f bytes a value on disk, %.2f of them the blocks themselves%nlive       %,.0f a second (%.1f x)%nput together %,.0f values a second (steal %.1f %%)%n",
                    values,
                    DAYS,
                    plant.tags().size(),
                    byPlain,
                    bytesOfRow,
                    byBlocks,
                    byBlocks / byPlain,
                    bytes,
                    data,
                    byLive,
                    byLive / byPlain,
                    values / seconds,
                    machine.stealPercent());
            System.out.printf(
                    Locale.ROOT,
                    "{\"bench\":\"archive\",\"ratio\":%.2f,\"ratio_blocks\":%.2f,\"disk_part\":%.4f,\"bytes_a_value\":%.3f,\"bytes_a_row\":%.2f,\"values\":%d,\"steal_percent\":%.1f}%n",
                    byLive / byPlain,
                    byBlocks / byPlain,
                    bytes / bytesOfRow,
                    bytes,
                    bytesOfRow,
                    values,
                    machine.stealPercent());
        } finally {
            PrivateProcess.remove(folder);
        }
    }

    private interface Work {
        void run() throws Exception;
    }

    /** What was left behind before is cleared away first, and is nobody's. */
    private static double timed(Work work) throws Exception {
        System.gc();
        long from = System.nanoTime();
        work.run();
        return (System.nanoTime() - from) / 1e9;
    }

    private static List<Step> day(PelletWorks plant) {
        List<Step> steps = new ArrayList<>();
        Instant end = plant.now().plus(Duration.ofDays(1));
        while (plant.now().isBefore(end)) {
            plant.runTo(plant.now().plus(STEP));
            List<TagChange> changes = new ArrayList<>();
            for (int i = 0; i < plant.tags().size(); i++) {
                PlantTag tag = plant.tags().get(i);
                if (tag.takeChanged()) {
                    Object value = tag.value() instanceof Integer whole ? Long.valueOf(whole) : tag.value();
                    changes.add(new TagChange("t" + i, TagValue.good(value, plant.now())));
                }
            }
            steps.add(new Step(OpcUaTime.toTicks(plant.now()), changes));
        }
        return steps;
    }

    /** Of each eight hours, of each tag. */
    private static List<List<History>> histories(List<Step> steps) {
        List<List<History>> thirds = new ArrayList<>();
        int third = steps.size() / 3;
        for (int part = 0; part < 3; part++) {
            Map<String, History> tags = new LinkedHashMap<>();
            for (Step step : steps.subList(part * third, part == 2 ? steps.size() : (part + 1) * third)) {
                for (TagChange change : step.changes()) {
                    History of =
                            tags.computeIfAbsent(change.address(), address -> new History(new TagRef(SOURCE, address)));
                    of.add(step.time(), Series.kept(change.value().value()));
                }
            }
            thirds.add(List.copyOf(tags.values()));
        }
        return thirds;
    }

    private void blocks(List<List<History>> thirds) throws Exception {
        for (List<History> third : thirds) {
            List<Block> blocks = new ArrayList<>();
            List<Tag> tags = new ArrayList<>();
            for (History history : third) {
                Column column = new Column(Series.sort(history.values[0], Column.Sort.NUMBER), history.size);
                for (int i = 0; i < history.size; i++) {
                    Series.put(column, history.times[i], history.values[i], 0);
                }
                long key = TagKey.of(history.ref);
                blocks.addAll(Block.of(key, Series.of(List.of(column))));
                tags.add(new Tag(key, history.ref, history.ref.address(), KeptFor.EVER));
            }
            table.bringIn("brought in", blocks, tags);
        }
    }

    private void plain(List<List<History>> thirds) throws SQLException {
        String insert = "INSERT INTO plain VALUES "
                + ", (?, ?, ?, ?)".repeat(ROWS_AT_ONCE).substring(2);
        try (Connection connection = pool.getConnection()) {
            connection.setAutoCommit(false);
            try (PreparedStatement many = connection.prepareStatement(insert)) {
                int at = 1;
                int batches = 0;
                for (List<History> third : thirds) {
                    for (History history : third) {
                        long key = TagKey.of(history.ref);
                        for (int i = 0; i < history.size; i++) {
                            many.setLong(at++, key);
                            many.setLong(at++, history.times[i]);
                            many.setObject(at++, number(history.values[i]));
                            many.setInt(at++, 0);
                            if (at > 4 * ROWS_AT_ONCE) {
                                many.executeUpdate();
                                at = 1;
                                if (++batches % COMMIT_EVERY == 0) {
                                    connection.commit();
                                }
                            }
                        }
                    }
                }
            }
            connection.commit();
            connection.setAutoCommit(true);
        }
    }

    private static Double number(Object kept) {
        return kept instanceof Number number
                ? (Double) number.doubleValue()
                : kept instanceof Boolean truth ? (truth ? 1.0 : 0.0) : null;
    }

    private void live(List<Step> steps, Path folder) throws Exception {
        SystemClock clock = new SystemClock();
        TagTable tags = new TagTable(clock);
        Path place = Files.createTempDirectory(folder, "live");
        try (LocalStore local = new LocalStore(place.resolve("local.db"));
                Archive archive =
                        new Archive(place.resolve("archive"), SegmentJournal.Limits.USUAL, tags, clock, local)) {
            List<TagInfo> infos = IntStream.range(0, 400)
                    .mapToObj(i -> new TagInfo("t" + i, "", "t" + i, DataKind.NUMBER, "", "", false))
                    .toList();
            SourceDefinition source =
                    new SourceDefinition(LIVE, "Works", "", "kept", Map.of(), Duration.ofSeconds(1), infos);
            KeepingRuleDefinition rule =
                    new KeepingRuleDefinition("0000000a", "All", "", Selection.source(LIVE), Density.CHANGES, 0, 0);
            List<Definition> all = List.of(source, rule);
            archive.changeover(List.of(rule), new Plant("Works", ZoneOffset.UTC, all));
            archive.storeIn(table);
            for (Step step : steps) {
                tags.offer(LIVE, step.changes());
            }
            long kept = archive.kept();
            if (archive.status(rule.id()).orElseThrow().counts().refused() > 0) {
                throw new IllegalStateException("Values were refused: " + archive.said());
            }
            while (one("SELECT COALESCE(SUM(kept + replaced), 0) FROM archive_lane") < kept) {
                archive.storeNow();
                Thread.sleep(5);
            }
        }
    }

    private void execute(String sql) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private long one(String sql) throws SQLException {
        try (Connection connection = pool.getConnection();
                Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }

    private long stored() throws SQLException {
        return one("SELECT SUM(taken) FROM archive_block");
    }

    private long size(String name) throws SQLException {
        return one(
                "SELECT FILE_SIZE FROM information_schema.INNODB_SYS_TABLESPACES WHERE NAME = 'archived/" + name + "'");
    }
}
