package dachshund.links.heavy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Optional;
import java.util.Properties;
import org.duckdb.DuckDBConnection;

/** An embedded DuckDB in memory that sees one folder at most, and nothing else; its configuration is locked. */
final class OwnDuck implements AutoCloseable {

    private static final String MEMORY = "256MB";

    private final Path work;
    private final DuckDBConnection database;

    /**
     * @param folder for what does not fit into memory
     * @param seen   files of it may be written by statements; empty for none
     * @param zone   of times that say none
     */
    OwnDuck(Path folder, Optional<Path> seen, String zone) throws SQLException, IOException {
        this.work = Files.createTempDirectory(folder, "work");
        Properties settings = new Properties();
        settings.setProperty("jdbc_stream_results", "true");
        this.database = (DuckDBConnection) DriverManager.getConnection("jdbc:duckdb:", settings);
        run("SET memory_limit='" + MEMORY + "'");
        run("SET threads=1");
        run("SET temp_directory=" + quoted(work.toString()));
        run("SET autoinstall_known_extensions=false");
        run("SET autoload_known_extensions=false");
        run("SET TimeZone=" + quoted(zone));
        if (seen.isPresent()) {
            run("SET allowed_directories=[" + quoted(seen.get().toString()) + "]");
        }
        run("SET enable_external_access=false");
        run("SET lock_configuration=true");
    }

    static String quoted(String text) {
        return "'" + text.replace("'", "''") + "'";
    }

    static String name(String text) {
        return "\"" + text.replace("\"", "\"\"") + "\"";
    }

    void run(String sql) throws SQLException {
        try (Statement statement = connection().createStatement()) {
            statement.execute(sql);
        }
    }

    Connection connection() {
        return database;
    }

    DuckDBConnection database() {
        return database;
    }

    @Override
    public void close() throws SQLException, IOException {
        database.close();
        try (var left = Files.list(work)) {
            for (Path each : left.toList()) {
                Files.deleteIfExists(each);
            }
        }
        Files.deleteIfExists(work);
    }
}
