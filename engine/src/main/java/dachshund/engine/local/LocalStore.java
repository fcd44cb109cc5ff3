package dachshund.engine.local;

import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagRef;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What the engine must remember over a restart apart from the rows themselves, in one SQLite file: who this
 * installation is, epochs, under which design rows were made, how far each lane has got, rows set aside, what a person
 * stopped or paused, and the values of kept tags. Small and slow-changing; one connection, one caller at a time.
 */
public final class LocalStore implements AutoCloseable {

    private final Connection connection;
    private final SetAsideRows aside;
    private final PlacesOpened places;
    private final KeptDesigns designs;
    private final Waiting waiting;
    private final SentNotices notices;
    private final Intents intents;
    private final FoundRows foundRows;
    private final KeptTriggers keptTriggers;
    private final TakenRequests takenRequests;

    /** A recorder stopped or a source paused by a person. */
    public record Stop(String by, Instant at, String why) {}

    /** Grows with each change that an earlier version would not understand. */
    static final int SCHEMA = 2;

    /** A failure of the local disk, which nothing here can mend. */
    public static final class LocalStoreFailed extends RuntimeException {
        LocalStoreFailed(SQLException cause) {
            super("The local store cannot be used: " + cause.getMessage(), cause);
        }
    }

    @FunctionalInterface
    interface Work<T> {
        T on(Connection connection) throws SQLException;
    }

    public LocalStore(Path file) {
        this(file, SetAsideRows.MOST);
    }

    /** @param mostAside rows of one recorder that there is room for aside */
    public LocalStore(Path file, int mostAside) {
        try {
            Files.createDirectories(file.getParent());
            connection = DriverManager.getConnection("jdbc:sqlite:" + file);
            try (Statement statement = connection.createStatement()) {
                known(statement);
                statement.execute("PRAGMA journal_mode=WAL");
                statement.execute("PRAGMA synchronous=FULL");
                statement.execute("CREATE TABLE IF NOT EXISTS fact (name TEXT PRIMARY KEY, value TEXT NOT NULL)");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS journal (destination TEXT PRIMARY KEY, id TEXT NOT NULL)");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS lane (name TEXT PRIMARY KEY, journal TEXT NOT NULL, position INTEGER NOT NULL, nth INTEGER NOT NULL, landed INTEGER NOT NULL, aside INTEGER NOT NULL, discarded INTEGER NOT NULL, damaged INTEGER NOT NULL, earlier INTEGER NOT NULL, lost INTEGER NOT NULL)");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS paused (source TEXT PRIMARY KEY, by TEXT NOT NULL, at TEXT NOT NULL, why TEXT NOT NULL)");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS kept_value (source TEXT NOT NULL, address TEXT NOT NULL, kind TEXT NOT NULL, value TEXT NOT NULL, at TEXT NOT NULL, PRIMARY KEY (source, address))");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS minute (recorder TEXT NOT NULL, minute INTEGER NOT NULL, counts TEXT NOT NULL, PRIMARY KEY (recorder, minute))");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS decision (lane TEXT PRIMARY KEY, up_to INTEGER NOT NULL, design TEXT NOT NULL, zone TEXT NOT NULL)");
                decisionsBegin(statement);
                statement.execute("CREATE TABLE IF NOT EXISTS served (recorder TEXT PRIMARY KEY, at TEXT NOT NULL)");
                statement.execute(
                        "CREATE TABLE IF NOT EXISTS stopped (recorder TEXT PRIMARY KEY, by TEXT NOT NULL, at TEXT NOT NULL, why TEXT NOT NULL)");
            }
        } catch (SQLException e) {
            throw new LocalStoreFailed(e);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        aside = new SetAsideRows(this, mostAside);
        places = new PlacesOpened(this);
        designs = new KeptDesigns(this);
        waiting = new Waiting(this);
        notices = new SentNotices(this);
        intents = new Intents(this);
        foundRows = new FoundRows(this);
        keptTriggers = new KeptTriggers(this);
        takenRequests = new TakenRequests(this);
    }

    /** How far tables were looked through for new rows. */
    public FoundRows foundRows() {
        return foundRows;
    }

    /** Requests that recorders have taken. */
    public TakenRequests takenRequests() {
        return takenRequests;
    }

    /** What is to be done later. */
    public KeptTriggers keptTriggers() {
        return keptTriggers;
    }

    /** Requests of which it is not known how they ended. */
    public Intents intents() {
        return intents;
    }

    /**
     * What a later version has written is not touched: this one does not know what it means. What is older, or of before versions
     * were kept, becomes this one by the statements that follow, which leave alone what is there.
     */
    private static void known(Statement statement) throws SQLException {
        try (ResultSet version = statement.executeQuery("PRAGMA user_version")) {
            int there = version.next() ? version.getInt(1) : 0;
            if (there > SCHEMA) {
                throw new SQLException("It was written by a later version of Dachshund (its schema is " + there
                        + ", this one knows " + SCHEMA + "). Start that version, or bring back a backup from before.");
            }
        }
        statement.execute("PRAGMA user_version = " + SCHEMA);
    }

    /** A column that the table of an earlier version lacks. */
    private static void decisionsBegin(Statement statement) throws SQLException {
        try (ResultSet there =
                statement.executeQuery("SELECT 1 FROM pragma_table_info('decision') WHERE name = 'from_nth'")) {
            if (there.next()) {
                return;
            }
        }
        statement.execute("ALTER TABLE decision ADD COLUMN from_nth INTEGER NOT NULL DEFAULT 0");
    }

    /** What became of notices. */
    public SentNotices notices() {
        return notices;
    }

    /** What our own database is to have as soon as it answers. */
    public Waiting waiting() {
        return waiting;
    }

    synchronized <T> T run(Work<T> work) {
        try {
            return work.on(connection);
        } catch (SQLException e) {
            throw new LocalStoreFailed(e);
        }
    }

    /** All of the work or nothing of it, forced to disk once. */
    <T> T together(Work<T> work) {
        return run(connection -> {
            connection.setAutoCommit(false);
            try {
                T result = work.on(connection);
                connection.commit();
                return result;
            } catch (SQLException | RuntimeException e) {
                connection.rollback();
                throw e;
            } finally {
                connection.setAutoCommit(true);
            }
        });
    }

    static PreparedStatement prepare(Connection connection, String sql, Object... values) throws SQLException {
        PreparedStatement statement = connection.prepareStatement(sql);
        for (int i = 0; i < values.length; i++) {
            statement.setObject(i + 1, values[i]);
        }
        return statement;
    }

    void make(String table) {
        run(connection -> {
            try (Statement statement = connection.createStatement()) {
                return statement.execute("CREATE TABLE IF NOT EXISTS " + table);
            }
        });
    }

    int update(String sql, Object... values) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(connection, sql, values)) {
                return statement.executeUpdate();
            }
        });
    }

    private Optional<String> fact(String name) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(connection, "SELECT value FROM fact WHERE name = ?", name);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next() ? Optional.of(rows.getString(1)) : Optional.empty();
            }
        });
    }

    private void fact(String name, String value) {
        update("INSERT INTO fact VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value", name, value);
    }

    /** A fact of this name that was remembered. */
    public Optional<String> remembered(String name) {
        return fact(name);
    }

    public void remember(String name, String value) {
        fact(name, value);
    }

    /** Several facts as one: all of them are remembered, or none. */
    public void remember(Map<String, String> facts) {
        together(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(
                    "INSERT INTO fact VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value")) {
                for (Map.Entry<String, String> each : facts.entrySet()) {
                    statement.setString(1, each.getKey());
                    statement.setString(2, each.getValue());
                    statement.addBatch();
                }
                statement.executeBatch();
            }
            return null;
        });
    }

    /** Six hexadecimal digits, drawn at the first call ever. */
    public synchronized String installation() {
        return fact("installation").orElseGet(() -> {
            String drawn = String.format("%06x", new SecureRandom().nextInt(1 << 24));
            fact("installation", drawn);
            return drawn;
        });
    }

    /** An epoch larger than any before: the present second, or one more than the last. */
    public synchronized long mintEpoch(Instant now) {
        long last = fact("epoch").map(Long::parseLong).orElse(0L);
        long epoch = Math.max(last + 1, now.getEpochSecond());
        fact("epoch", Long.toString(epoch));
        return epoch;
    }

    List<String> names(String sql, String... parameters) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(connection, sql, (Object[]) parameters);
                    ResultSet rows = statement.executeQuery()) {
                List<String> names = new ArrayList<>();
                while (rows.next()) {
                    names.add(rows.getString(1));
                }
                return names;
            }
        });
    }

    /** Clock times of a recorder are served up to here. */
    public void served(String recorder, Instant upTo) {
        update(
                "INSERT INTO served VALUES (?, ?) ON CONFLICT (recorder) DO UPDATE SET at = excluded.at",
                recorder,
                upTo.toString());
    }

    /** Up to when clock times of a recorder were served; empty where it is new. */
    public Optional<Instant> served(String recorder) {
        return run(connection -> {
            try (PreparedStatement statement =
                            prepare(connection, "SELECT at FROM served WHERE recorder = ?", recorder);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next() ? Optional.of(Instant.parse(rows.getString(1))) : Optional.empty();
            }
        });
    }

    /** How far a lane has got. */
    public Settled settled(String lane) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(
                            connection,
                            "SELECT journal, position, nth, landed, aside, discarded, damaged, earlier, lost FROM lane WHERE name = ?",
                            lane);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next()
                        ? new Settled(
                                rows.getString(1),
                                rows.getLong(2),
                                rows.getLong(3),
                                rows.getLong(4),
                                rows.getLong(5),
                                rows.getLong(6),
                                rows.getLong(7),
                                rows.getLong(8),
                                rows.getLong(9))
                        : Settled.NOTHING;
            }
        });
    }

    /** Recorders that have a lane into the destination. */
    public List<String> laneNames(String destination) {
        return names("SELECT substr(name, 1, instr(name, ':') - 1) FROM lane WHERE name LIKE '%:' || ?", destination);
    }

    /** Keeps the counts of some minutes, each as a text, and forgets those before a minute. */
    public void keepMinutes(List<Minute> minutes, long before) {
        together(connection -> {
            try (Statement clear = connection.createStatement();
                    PreparedStatement insert =
                            connection.prepareStatement("INSERT OR REPLACE INTO minute VALUES (?, ?, ?)")) {
                clear.executeUpdate("DELETE FROM minute WHERE minute < " + before);
                for (Minute each : minutes) {
                    insert.setString(1, each.recorder());
                    insert.setLong(2, each.minute());
                    insert.setString(3, each.counts());
                    insert.addBatch();
                }
                insert.executeBatch();
            }
            return null;
        });
    }

    /** The counts that were kept. */
    public List<Minute> keptMinutes() {
        return run(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery("SELECT recorder, minute, counts FROM minute")) {
                List<Minute> minutes = new ArrayList<>();
                while (rows.next()) {
                    minutes.add(new Minute(rows.getString(1), rows.getLong(2), rows.getString(3)));
                }
                return minutes;
            }
        });
    }

    /** Counts of one minute of one recorder; minutes since 1970. */
    public record Minute(String recorder, long minute, String counts) {}

    /** What is known of the journal of a destination: its id, and up to where something was settled in it. */
    public Map.Entry<String, Long> journal(String destination) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(
                            connection,
                            "SELECT j.id, (SELECT COALESCE(MAX(l.position), 0) FROM lane l WHERE l.journal = j.id) FROM journal j WHERE j.destination = ?",
                            destination);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next() ? Map.entry(rows.getString(1), rows.getLong(2)) : Map.entry("", 0L);
            }
        });
    }

    /** From now on the journal of the destination is this one. */
    public void knowsJournal(String destination, String id) {
        update(
                "INSERT INTO journal VALUES (?, ?) ON CONFLICT (destination) DO UPDATE SET id = excluded.id",
                destination,
                id);
    }

    /** Keeps how far several lanes have got, together. Of one journal none goes back: whoever tells late tells of before. */
    public void settle(Map<String, Settled> lanes) {
        together(connection -> {
            settle(connection, lanes);
            return null;
        });
    }

    static void settle(Connection connection, Map<String, Settled> lanes) throws SQLException {
        try (PreparedStatement statement = connection.prepareStatement(
                "INSERT INTO lane (name, journal, position, nth, landed, aside, discarded, damaged, earlier, lost) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
                        + " ON CONFLICT (name) DO UPDATE SET journal = excluded.journal, position = excluded.position, nth = excluded.nth, landed = excluded.landed, aside = excluded.aside, discarded = excluded.discarded, damaged = excluded.damaged, earlier = excluded.earlier, lost = excluded.lost"
                        + " WHERE excluded.journal <> lane.journal OR excluded.nth >= lane.nth")) {
            for (Map.Entry<String, Settled> entry : lanes.entrySet()) {
                Settled each = entry.getValue();
                statement.setString(1, entry.getKey());
                statement.setString(2, each.journal());
                statement.setLong(3, each.position());
                statement.setLong(4, each.nth());
                statement.setLong(5, each.landed());
                statement.setLong(6, each.aside());
                statement.setLong(7, each.discarded());
                statement.setLong(8, each.damaged());
                statement.setLong(9, each.before());
                statement.setLong(10, each.lost());
                statement.addBatch();
            }
            statement.executeBatch();
        }
    }

    /**
     * What a person has decided about rows that a lane held.
     *
     * @param from   running number of the first of them that had not landed; 0 where that was not known yet
     * @param upTo   running number of the last of them
     * @param design the design that they are given to, as a document; empty where they are discarded
     * @param zone   plant time then
     */
    public record Decided(long from, long upTo, String design, String zone) {}

    public void decide(String lane, Decided decided) {
        update(
                "INSERT OR REPLACE INTO decision (lane, from_nth, up_to, design, zone) VALUES (?, ?, ?, ?, ?)",
                lane,
                decided.from(),
                decided.upTo(),
                decided.design(),
                decided.zone());
    }

    public Optional<Decided> decided(String lane) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(
                            connection, "SELECT from_nth, up_to, design, zone FROM decision WHERE lane = ?", lane);
                    ResultSet rows = statement.executeQuery()) {
                return rows.next()
                        ? Optional.of(
                                new Decided(rows.getLong(1), rows.getLong(2), rows.getString(3), rows.getString(4)))
                        : Optional.empty();
            }
        });
    }

    /** The rows that are set aside. */
    public PlacesOpened places() {
        return places;
    }

    public KeptDesigns designs() {
        return designs;
    }

    public SetAsideRows aside() {
        return aside;
    }

    public void stop(String recorder, Stop stop) {
        halt("stopped", recorder, stop);
    }

    public void start(String recorder) {
        update("DELETE FROM stopped WHERE recorder = ?", recorder);
    }

    /** Recorders that a person stopped, by id. */
    public Map<String, Stop> stopped() {
        return halted("SELECT recorder, by, at, why FROM stopped");
    }

    public void pause(String source, Stop stop) {
        halt("paused", source, stop);
    }

    public void resume(String source) {
        update("DELETE FROM paused WHERE source = ?", source);
    }

    /** Sources that a person paused, by id. */
    public Map<String, Stop> paused() {
        return halted("SELECT source, by, at, why FROM paused");
    }

    private void halt(String table, String id, Stop stop) {
        update(
                "INSERT INTO " + table + " VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING",
                id,
                stop.by(),
                stop.at().toString(),
                stop.why());
    }

    private Map<String, Stop> halted(String sql) {
        return run(connection -> {
            try (Statement statement = connection.createStatement();
                    ResultSet rows = statement.executeQuery(sql)) {
                Map<String, Stop> stops = new HashMap<>();
                while (rows.next()) {
                    stops.put(
                            rows.getString(1),
                            new Stop(rows.getString(2), Instant.parse(rows.getString(3)), rows.getString(4)));
                }
                return stops;
            }
        });
    }

    /** Keeps the value of a kept tag, as text of its kind. On disk when this returns. */
    public void keep(TagRef tag, DataKind kind, String value, Instant at) {
        update(
                "INSERT INTO kept_value VALUES (?, ?, ?, ?, ?) ON CONFLICT (source, address) DO UPDATE SET kind = excluded.kind, value = excluded.value, at = excluded.at",
                tag.source(),
                tag.address(),
                kind.name(),
                value,
                at.toString());
    }

    /** A kept value; the kind is the one it had when it was kept. */
    public record Kept(DataKind kind, String value, Instant at) {}

    /** The kept values of a source, by address. */
    public Map<String, Kept> kept(String source) {
        return run(connection -> {
            try (PreparedStatement statement = prepare(
                            connection, "SELECT address, kind, value, at FROM kept_value WHERE source = ?", source);
                    ResultSet rows = statement.executeQuery()) {
                Map<String, Kept> values = new HashMap<>();
                while (rows.next()) {
                    values.put(
                            rows.getString(1),
                            new Kept(
                                    DataKind.valueOf(rows.getString(2)),
                                    rows.getString(3),
                                    Instant.parse(rows.getString(4))));
                }
                return values;
            }
        });
    }

    @Override
    public void close() {
        run(connection -> {
            connection.close();
            return null;
        });
    }
}
