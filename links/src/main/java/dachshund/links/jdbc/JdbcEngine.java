package dachshund.links.jdbc;

import com.zaxxer.hikari.HikariConfig;
import dachshund.core.destination.RowBatch;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TableKeeping.Procedure;
import dachshund.core.layout.SqlType;
import dachshund.core.reader.TableName;
import dachshund.core.row.Row;
import dachshund.core.sql.Dialect;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Pattern;

/** What one database engine does differently from the others, for {@link JdbcStore}. Immutable. */
public interface JdbcEngine {

    Dialect dialect();

    /**
     * Whether another database of the same server may be looked into over a connection to this one.
     *
     * @throws SQLException with a sentence, where it may not
     */
    default void mayReach(String other) throws SQLException {}

    /** Name of the database, as a person knows it. */
    String database();

    /** The same for another database of the same server, or another file beside it. */
    JdbcEngine in(String database);

    /** Whether there is something to look at; looking must not make it. */
    default boolean isThere() {
        return true;
    }

    /** Address, log-in and settings of the pool. */
    HikariConfig pool();

    /** The same for connections over which the same few statements go again and again. */
    default HikariConfig poolOfFewStatements() {
        return pool();
    }

    /** The same for connections that cannot write. */
    default HikariConfig readingPool() {
        HikariConfig config = pool();
        config.setReadOnly(true);
        return config;
    }

    /**
     * Makes each connection of a pool begin its transactions at a level; left out by an engine that has one level alone.
     *
     * @param level READ_COMMITTED, REPEATABLE_READ or SERIALIZABLE
     */
    default void isolate(HikariConfig pool, String level) {
        pool.setTransactionIsolation("TRANSACTION_" + level);
    }

    /** A limit that holds until it is closed. */
    interface Limit extends AutoCloseable {
        @Override
        void close() throws SQLException;
    }

    /** Gives a statement so long at most, from now on; zero for as long as it takes. */
    default Limit limit(Connection connection, Statement statement, Duration within) throws SQLException {
        if (!within.isZero()) {
            statement.setQueryTimeout((int) Math.max(1, within.toSeconds()));
        }
        return () -> {};
    }

    /** Whether a statement was broken off because it took longer than it was given. */
    boolean brokenOff(SQLException telling);

    /** Whether a comparison was refused since a text has letters that the column cannot have; nothing in it is that text. */
    default boolean lacksLetters(SQLException telling) {
        return false;
    }

    /** Opens a connection apart from the pool, waiting so long at most. */
    Connection connect(Duration limit) throws SQLException;

    /** Opens a connection to the server without the database, to make it there; empty where there is no such thing. */
    Optional<Connection> connectServer() throws SQLException;

    /** What answered and where, for the sentence of a test; the rest is put behind. */
    String answered(Connection connection) throws SQLException;

    /** Tables that rows can be written to, by name. */
    List<String> tables(Connection connection) throws SQLException;

    Optional<TableDescription> describe(Connection connection, String table) throws SQLException;

    List<String> databases(Connection connection) throws SQLException;

    List<Procedure> procedures(Connection connection) throws SQLException;

    /** Whether a procedure's arguments can be given by name; else they are put into its own order. */
    boolean namedArguments();

    /** What an error means for the rows. */
    StoreProblem.Kind kind(SQLException telling);

    /** What the error says in words; empty for the engine's own text alone. */
    Optional<String> sentence(SQLException telling);

    /** The setting to look at after an error while connecting. */
    String field(SQLException telling);

    /** Where it is, for sentences: host and port, or a file. */
    String place();

    /** Sets one parameter; null for NULL. */
    void bind(PreparedStatement statement, int at, Object cell, SqlType type) throws SQLException;

    /**
     * Writes many rows by insert or insert-or-update in a way of this engine's own, if it has a faster one for them.
     *
     * @return false where it has none, and nothing was written
     */
    default boolean writeAll(Connection connection, RowBatch batch, List<Row> rows) throws SQLException {
        return false;
    }

    /** Whether several transactions at once are done sooner than one after the other. */
    boolean writesAtOnce();

    /** Reads one cell as Boolean, Number, String, LocalDate, LocalTime or Instant; null for NULL. */
    Object read(ResultSet rows, int at, SqlType type) throws SQLException;

    /** About how many rows tables have, as the database itself estimates it; without those of which it does not. */
    default Map<TableName, Long> estimates(Connection connection) throws SQLException {
        return Map.of();
    }

    /** What the account may do beside reading, in a sentence; empty where nothing is known of it. */
    default Optional<String> mayWrite(Connection connection) throws SQLException {
        return Optional.empty();
    }

    /** Whether a type of its own that holds dates with times names an instant, and not what some clock showed. */
    default boolean namesInstants(String typeName) {
        return false;
    }

    /** Whether each cell has a type of its own, whatever its column says. */
    default boolean typesByCell() {
        return false;
    }

    /**
     * Sets a parameter of a query to an instant, so that it compares with what columns of times hold.
     *
     * @param zone of columns that say none
     */
    default void bindTime(PreparedStatement statement, int at, Instant time, ZoneId zone) throws SQLException {
        statement.setObject(at, LocalDateTime.ofInstant(time, zone));
    }

    /** Whether an instant that is bound stays one, and is no clock's time. */
    default boolean bindsInstants() {
        return false;
    }

    /** Sets a parameter of a query: String, BigDecimal, Long, Double, LocalDate or Boolean; never null. */
    default void bindValue(PreparedStatement statement, int at, Object value) throws SQLException {
        statement.setObject(at, value);
    }

    /** Why a query is not asked, in a sentence, though the transaction that it is asked in cannot write. */
    default Optional<String> refuses(String query) {
        return Optional.empty();
    }

    /** How its words say where in a query the trouble is: see {@link ErrorPlace}. */
    default List<Pattern> errorPlaces() {
        return List.of();
    }

    /** Makes the table of delivery marks, if it is not there. */
    String makeMarks(String table);

    /** Sets the mark of a lane: parameters are lane and row id. */
    String moveMark(String table);

    /** Makes the table of requests that were done, if it is not there; see {@link JdbcTransacting}. */
    default String makeDone(String table) {
        return "CREATE TABLE IF NOT EXISTS " + table
                + " (installation VARCHAR(12) NOT NULL, what VARCHAR(12) NOT NULL, request VARCHAR(120) NOT NULL,"
                + " code BIGINT, said VARCHAR(200), todo TEXT, done_at TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP,"
                + " PRIMARY KEY (installation, what, request))";
    }

    /** The instant so many days ago by the clock of the database, to be compared with a time that it has put in by itself. */
    default String daysAgo(int days) {
        return "CURRENT_TIMESTAMP - INTERVAL '" + days + "' DAY";
    }

    /** Makes a temporary copy of a table's design; empty where the engine cannot. */
    Optional<String> copyDesign(String copy, String table);

    String dropTemporary(String table);
}
