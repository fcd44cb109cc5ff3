package dachshund.drill;

import dachshund.core.row.RowId;
import dachshund.site.Person;
import dachshund.site.Site;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/**
 * The witness of a drill: the dryer's recorder, made to write a row at each fifth of a tenth of a second, whose rows are
 * counted in its table by a client of its own. Each row carries the moment it was due and the running number of its life (the
 * time from one start of the application to its end), so a row that is missing, or there twice, is seen without a word from
 * the application.
 */
final class Ticks {

    static final Duration PERIOD = Duration.ofMillis(20);

    /** Whoever waits for longer has lost it. Where other things keep both cores busy, a start alone takes more than a minute. */
    static final Duration DRAINED_WITHIN = Duration.ofMinutes(5);

    private static final String TABLE = "quillmoor_records.dryer_log";

    private final Site site;
    /** Rows of before the witness ticked at its own pace are not counted. */
    private Instant from = Instant.MAX;

    /**
     * One life of the application as its rows tell it.
     *
     * @param rows    in the table
     * @param ids     different row ids
     * @param highest running number
     */
    record Life(
            String installation,
            long epoch,
            long rows,
            long ids,
            long lowest,
            long highest,
            Instant first,
            Instant last) {

        /** Rows that were made between the first and the last one that is there, and are not. */
        long missing() {
            return highest - lowest + 1 - ids;
        }

        /** Ticks between the first and the last one at which no row was made: the application was late. */
        long skipped() {
            return Math.round(Duration.between(first, last).toNanos() / (double) PERIOD.toNanos())
                    + 1
                    - (highest - lowest + 1);
        }

        long doubled() {
            return rows - ids;
        }
    }

    Ticks(Site site) {
        this.site = site;
    }

    /** Makes the witness tick. */
    void begin(Person engineer) throws Exception {
        Site.draftPeriod(engineer, Site.recorder(engineer, "Dryer log"), "20 ms");
        Site.release(engineer);
        Instant released = Instant.now();
        long until = System.nanoTime() + 30_000_000_000L;
        while (since(released.plusSeconds(1)) < 25) {
            if (System.nanoTime() > until) {
                throw new IllegalStateException("The recorder of 20 ms writes no rows.");
            }
            Thread.sleep(200);
        }
        from = released.plusSeconds(1);
    }

    /** Counts rows of whatever time, as where the clock is not to be trusted. */
    void countAll() {
        from = Instant.EPOCH;
    }

    private Connection connection() throws SQLException {
        return DriverManager.getConnection(site.database().url("") + "&connectTimeout=2000&socketTimeout=30000");
    }

    /** Rows due since then. */
    long since(Instant time) throws SQLException {
        try (Connection connection = connection();
                PreparedStatement statement =
                        connection.prepareStatement("SELECT COUNT(*) FROM " + TABLE + " WHERE record_time >= ?")) {
            statement.setObject(1, utc(time));
            try (ResultSet result = statement.executeQuery()) {
                result.next();
                return result.getLong(1);
            }
        }
    }

    /** How many installations made the rows that were due since then. */
    int installationsSince(Instant time) throws SQLException {
        Set<String> installations = new HashSet<>();
        try (Connection connection = connection();
                PreparedStatement statement =
                        connection.prepareStatement("SELECT row_id FROM " + TABLE + " WHERE record_time >= ?")) {
            statement.setObject(1, utc(time));
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    installations.add(RowId.read(rows.getString(1)).installation());
                }
            }
        }
        return installations.size();
    }

    private static LocalDateTime utc(Instant time) {
        return LocalDateTime.ofInstant(time, ZoneOffset.UTC);
    }

    /** Waits until rows that are due now stand in the table: all older ones went before them. */
    void caughtUp() throws InterruptedException {
        caughtUp(DRAINED_WITHIN);
    }

    /** As {@link #caughtUp()}, for as long as is said. */
    void caughtUp(Duration limit) throws InterruptedException {
        Instant asked = Instant.now();
        long until = System.nanoTime() + limit.toNanos();
        while (true) {
            try {
                if (since(asked) > 0) {
                    return;
                }
            } catch (SQLException away) {
                // not yet
            }
            if (System.nanoTime() > until) {
                throw new IllegalStateException(
                        "No row of after " + asked + " is in the table after " + limit.toSeconds() + " s.");
            }
            Thread.sleep(50);
        }
    }

    /** What stands in the table, life by life. */
    List<Life> lives() throws SQLException {
        Map<RowId, List<Object[]>> byEpoch =
                new TreeMap<>(Comparator.comparing(RowId::epoch).thenComparing(RowId::installation));
        try (Connection connection = connection();
                PreparedStatement statement = connection.prepareStatement(
                        "SELECT row_id, record_time FROM " + TABLE + " WHERE record_time >= ?")) {
            statement.setObject(1, utc(from));
            try (ResultSet rows = statement.executeQuery()) {
                while (rows.next()) {
                    RowId id = RowId.read(rows.getString(1));
                    Instant at = rows.getObject(2, LocalDateTime.class).toInstant(ZoneOffset.UTC);
                    byEpoch.computeIfAbsent(id, each -> new ArrayList<>()).add(new Object[] {id.sequence(), at});
                }
            }
        }
        List<Life> lives = new ArrayList<>();
        byEpoch.forEach((epoch, rows) -> {
            Set<Object> ids = new HashSet<>();
            rows.forEach(row -> ids.add(row[0]));
            lives.add(new Life(
                    epoch.installation(),
                    epoch.epoch(),
                    rows.size(),
                    ids.size(),
                    rows.stream().mapToLong(row -> (Long) row[0]).min().orElseThrow(),
                    rows.stream().mapToLong(row -> (Long) row[0]).max().orElseThrow(),
                    rows.stream()
                            .map(row -> (Instant) row[1])
                            .min(Instant::compareTo)
                            .orElseThrow(),
                    rows.stream()
                            .map(row -> (Instant) row[1])
                            .max(Instant::compareTo)
                            .orElseThrow()));
        });
        return lives;
    }
}
