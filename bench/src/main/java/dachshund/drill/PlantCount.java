package dachshund.drill;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.archive.BlockCodec;
import dachshund.core.archive.Series;
import dachshund.core.archive.TagKey;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import dachshund.drill.Ticks.Life;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.filing.Filed;
import dachshund.office.release.ConfigurationFile;
import dachshund.site.Person;
import dachshund.site.Site;
import dachshund.standins.SimulatedPlant;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;

/**
 * The plant's own count as the witness of a drill: a line counts its kilogrammes, a recorder writes each change of that, and what the
 * plant counted while somebody listened is compared with what stands in the table. The application is asked nothing.
 */
final class PlantCount implements AutoCloseable {

    private static final String MACHINE = "Pelleting/PL1";
    private static final String COUNTER = "Pellets made";
    private static final String TABLE = "drill_count";
    private static final long LOOKS_EVERY_NANOS = 20_000_000;
    /** A change so shortly before an end may not have been heard yet: the server looks four times a second, rows are forced each 100 ms. */
    private static final Duration NOT_HEARD_YET = Duration.ofSeconds(1);

    /** The plant's clock and ours are the same; what it counts it counts again in another life of it. */
    private static final Duration NEAR = Duration.ofSeconds(5);

    private static final ObjectMapper JSON = new ObjectMapper();
    /** The server looks so often: the plant makes a step each 500 ms, so no change is passed over. */
    private static final Duration LOOKS = Duration.ofMillis(250);

    private final Site site;
    private final List<Change> filled = new CopyOnWriteArrayList<>();
    private final Worker watching;
    private SimulatedPlant seen;
    private int begun;
    private TagRef counter;
    private Instant storedUpTo = Instant.EPOCH;
    /** Changes of a time in which somebody listened. */
    private final List<Change> heard = new ArrayList<>();

    /**
     * A change, as the plant counted it.
     *
     * @param life which life of the plant, from 1
     */
    private record Change(int life, int count, Instant at) {}

    /** A row in the table. */
    private record Written(RowId id, Optional<Integer> count, Instant at) {}

    PlantCount(Site site) {
        this.site = site;
        this.watching = Threads.start("plant-count", this::look);
    }

    private long look() {
        SimulatedPlant plant = site.plant();
        int count = ((Number) plant.value(MACHINE, COUNTER)).intValue();
        boolean first = !plant.equals(seen);
        if (first) {
            seen = plant;
            begun++;
        }
        if (first || count != filled.get(filled.size() - 1).count()) {
            filled.add(new Change(begun, count, Instant.now()));
        }
        return LOOKS_EVERY_NANOS;
    }

    /** Has each change recorded. */
    void begin(Person engineer) throws Exception {
        JsonNode live = JSON.readTree(engineer.get("/release/export").body());
        JsonNode source = named(live, "Pellet works");
        String address = StreamSupport.stream(source.get("tags").spliterator(), false)
                .filter(tag -> tag.get("name").asText().equals(COUNTER)
                        && tag.get("address").asText().contains(MACHINE.substring(MACHINE.indexOf('/') + 1)))
                .findFirst()
                .orElseThrow()
                .get("address")
                .asText();
        counter = new TagRef(source.get("id").asText(), address);
        RecorderDefinition each = new RecorderDefinition(
                "c0000001",
                "Each kilogramme",
                "",
                List.of(new When.OnChange(Deadband.NONE, List.of(counter), Duration.ZERO, Duration.ZERO)),
                Layout.proposed()
                        .plus(Column.of(
                                "counted",
                                SqlType.BIGINT,
                                new ColumnSource.FromTag(counter, ColumnSource.Aspect.VALUE))),
                List.of(new RecorderDefinition.Where(
                        named(live, "Production").get("id").asText(), TABLE, new Upkeep(true, true), false)));
        ObjectNode file = (ObjectNode) JSON.readTree(ConfigurationFile.write(List.of(each), id -> Filed.NOWHERE));
        ((ArrayNode) file.get("definitions")).add(((ObjectNode) source).put("rate", LOOKS.toString()));
        engineer.post("/release/import", "text", file.toString());
        Site.release(engineer);
    }

    /** Waits until so many changes of after now stand in the table: somebody listens, and has for a while. */
    void heard(int changes, Duration limit) throws InterruptedException {
        Instant asked = Instant.now();
        long until = System.nanoTime() + limit.toNanos();
        while (System.nanoTime() < until) {
            try {
                if (written().stream().filter(row -> row.at().isAfter(asked)).count() >= changes) {
                    return;
                }
            } catch (SQLException away) {
                // not yet
            }
            Thread.sleep(200);
        }
        throw new IllegalStateException("The plant counts, and nothing of after " + asked + " is in the table after "
                + limit.toSeconds() + " s.");
    }

    private static JsonNode named(JsonNode live, String name) {
        return StreamSupport.stream(live.get("definitions").spliterator(), false)
                .filter(each -> each.get("name").asText().equals(name))
                .findFirst()
                .orElseThrow(() -> new IllegalStateException("Nothing is called " + name + "."));
    }

    private List<Written> written() throws SQLException {
        List<Written> rows = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(
                        site.database().url("") + "&connectTimeout=2000&socketTimeout=30000");
                Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery(
                        "SELECT row_id, record_time, counted FROM quillmoor_records." + TABLE + " ORDER BY row_id")) {
            while (found.next()) {
                rows.add(new Written(
                        RowId.read(found.getString(1)),
                        Optional.ofNullable(found.getObject(3, Integer.class)),
                        found.getObject(2, LocalDateTime.class).toInstant(ZoneOffset.UTC)));
            }
        }
        return rows;
    }

    /** @param lives of the application. @return whether each change of a time in which somebody listened is there, once */
    boolean account(List<Life> lives) throws SQLException {
        List<Written> rows = written();
        Map<Integer, List<Change>> byLife =
                filled.stream().collect(Collectors.groupingBy(Change::life, TreeMap::new, Collectors.toList()));
        int due = 0;
        List<String> wrong = new ArrayList<>();
        for (Map.Entry<Integer, List<Change>> each : byLife.entrySet()) {
            List<Change> changes = each.getValue();
            Instant ends = byLife.containsKey(each.getKey() + 1)
                    ? changes.get(changes.size() - 1).at()
                    : Instant.MAX;
            for (Life life : lives) {
                List<Written> theirs = rows.stream()
                        .filter(row -> row.id().epoch() == life.epoch() && plantLife(byLife, row) == each.getKey())
                        .toList();
                due += compare(changes, theirs, ends.isBefore(life.last()) ? ends : life.last(), wrong);
            }
        }
        System.out.printf(
                "the plant counted %,d times, %,d of them while somebody listened; %,d rows of them in the table%n",
                filled.size(), due, rows.size());
        wrong.forEach(System.out::println);
        return wrong.isEmpty() && due > 0;
    }

    /** The life of the plant that a row tells of: the last one that had begun. */
    private static int plantLife(Map<Integer, List<Change>> byLife, Written row) {
        return byLife.entrySet().stream()
                .filter(each -> !row.at().isBefore(each.getValue().get(0).at()))
                .mapToInt(Map.Entry::getKey)
                .max()
                .orElse(1);
    }

    private int compare(List<Change> changes, List<Written> rows, Instant end, List<String> wrong) {
        if (rows.isEmpty()) {
            return 0;
        }
        Instant begin = rows.get(0).at();
        int due = 0;
        for (Change change : changes) {
            if (change.at().isAfter(begin.plus(NOT_HEARD_YET)) && change.at().isBefore(end.minus(NOT_HEARD_YET))) {
                due++;
                heard.add(change);
                long times = rows.stream()
                        .filter(row -> row.count().equals(Optional.of(change.count())))
                        .count();
                if (times != 1) {
                    wrong.add(COUNTER + " " + change.count() + " of " + change.at() + " is there " + times
                            + " times.  <<< NOT AS PROMISED");
                }
            }
        }
        rows.stream()
                .filter(row -> changes.stream().noneMatch(change -> row.count().equals(Optional.of(change.count()))))
                .forEach(row -> wrong.add("The plant never counted to "
                        + row.count().map(Object::toString).orElse("no value") + ", as row " + row.id() + " of "
                        + row.at() + " says.  <<< NOT AS PROMISED"));
        return due;
    }

    /** Waits until the archive has stored what was heard up to now. */
    void stored(Duration limit) throws Exception {
        storedUpTo = Instant.now();
        long until = System.nanoTime() + limit.toNanos();
        while (one("SELECT COALESCE(MAX(at), 0) FROM archive_lane") < OpcUaTime.toTicks(storedUpTo)) {
            if (System.nanoTime() > until) {
                throw new IllegalStateException("Nothing was stored in the archive for " + limit.toSeconds() + " s.");
            }
            Thread.sleep(500);
        }
    }

    /**
     * Whether the archive has each change of a time in which somebody listened, up to when it had stored; and whether its
     * account adds up: what was offered is kept, replaced, passed over or refused, and what was kept is in its blocks.
     */
    boolean archived() throws Exception {
        Map<Long, List<Instant>> times = new HashMap<>();
        Series series = series();
        for (int i = 0; i < series.size(); i++) {
            if (series.value(i).orElse(null) instanceof Number number) {
                times.computeIfAbsent(number.longValue(), each -> new ArrayList<>())
                        .add(OpcUaTime.toInstant(series.time(i)));
            }
        }
        List<Change> due = heard.stream()
                .filter(change -> change.at().isBefore(storedUpTo.minus(NOT_HEARD_YET)))
                .toList();
        List<Change> missing = due.stream()
                .filter(change -> times.getOrDefault((long) change.count(), List.of()).stream()
                        .noneMatch(at -> Duration.between(at, change.at()).abs().compareTo(NEAR) < 0))
                .toList();
        missing.forEach(change -> System.out.println(COUNTER + " " + change.count() + " of " + change.at()
                + " is not in the archive.  <<< NOT AS PROMISED"));
        long open = one("SELECT COALESCE(SUM(offered - kept - replaced - within - refused), 0) FROM archive_lane");
        long blocks = one("SELECT COALESCE(SUM(taken), 0) FROM archive_block");
        long kept = one("SELECT COALESCE(SUM(kept), 0) FROM archive_lane")
                + one(
                        "SELECT COALESCE(SUM(IF(what IN ('brought in', 'filled'), taken, -taken)), 0) FROM archive_later");
        System.out.printf(
                "the archive has %,d values of all tags; %,d of the %,d changes that were heard are there; offered and not accounted for: %d; kept and not in its blocks: %d%n",
                blocks, due.size() - missing.size(), due.size(), open, kept - blocks);
        return missing.isEmpty() && !due.isEmpty() && open == 0 && kept == blocks;
    }

    private Series series() throws SQLException, BlockCodec.Damaged {
        List<dachshund.core.archive.Column> columns = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection(site.database().url(""));
                PreparedStatement statement = connection.prepareStatement(
                        "SELECT data FROM dachshund.archive_block WHERE tag = ? ORDER BY id")) {
            statement.setLong(1, TagKey.of(counter));
            try (ResultSet found = statement.executeQuery()) {
                while (found.next()) {
                    columns.add(BlockCodec.read(found.getBytes(1)));
                }
            }
        }
        return Series.of(columns);
    }

    private long one(String sql) throws SQLException {
        try (Connection connection = DriverManager.getConnection(site.database().url("dachshund"));
                Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery(sql)) {
            found.next();
            return found.getLong(1);
        }
    }

    @Override
    public void close() {
        watching.close();
    }
}
