package dachshund.bench;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.RowStore;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.links.mariadb.MariaDbEngine;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.Map;

/** A MariaDB with an empty database for a benchmark, and what recorders into it look like. */
final class MariaBed implements AutoCloseable {

    static final String SOURCE = "s";

    private final PrivateMariaDb server = new PrivateMariaDb();
    private final Connection admin;

    MariaBed() throws SQLException {
        admin = DriverManager.getConnection(server.url(""));
        execute("CREATE DATABASE bench");
        admin.setCatalog("bench");
    }

    /** As a destination. */
    RowStore open() {
        return MariaDbEngine.mariaDb()
                .open(Map.of(
                        "host",
                        "127.0.0.1",
                        "port",
                        Integer.toString(server.port()),
                        "database",
                        "bench",
                        "user",
                        "root",
                        "password",
                        ""));
    }

    int port() {
        return server.port();
    }

    /** Bare, as a loop without us uses it. */
    Connection connect() throws SQLException {
        return DriverManager.getConnection(server.url("bench") + "&useBulkStmts=true&timezone=UTC");
    }

    /** CPU time that the server has taken, in nanoseconds. */
    long cpuNanos() {
        return server.cpu().toNanos();
    }

    void execute(String sql) throws SQLException {
        try (Statement statement = admin.createStatement()) {
            statement.execute(sql);
        }
    }

    long count(String sql) throws SQLException {
        try (Statement statement = admin.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }

    /** Row id, record time and so many numbers of tags of its own. */
    static RecorderDefinition recorder(int number, String table, int tags, When when) {
        Layout layout = Layout.proposed();
        for (int i = 0; i < tags; i++) {
            layout = layout.plus(Column.of(
                    "v" + i, SqlType.DOUBLE, new ColumnSource.FromTag(tag(number, i), ColumnSource.Aspect.VALUE)));
        }
        return new RecorderDefinition(
                id(number),
                table,
                "",
                List.of(when),
                layout,
                List.of(new Where("dest", table, new Upkeep(true, false), false)));
    }

    static String id(int number) {
        return String.format("%08x", number + 1);
    }

    static TagRef tag(int recorder, int number) {
        return new TagRef(SOURCE, recorder + "/" + number);
    }

    static String insert(RecorderDefinition recorder) {
        return MariaDbEngine.mariaDb().dialect().insert(recorder.wheres().get(0).table(), recorder.layout());
    }

    void create(RecorderDefinition recorder) throws SQLException {
        for (String sql : MariaDbEngine.mariaDb()
                .dialect()
                .createTable(recorder.wheres().get(0).table(), recorder.layout(), false)) {
            execute(sql);
        }
    }

    @Override
    public void close() throws SQLException {
        admin.close();
        server.close();
    }
}
