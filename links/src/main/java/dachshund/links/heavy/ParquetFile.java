package dachshund.links.heavy;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.duckdb.DuckDBAppender;
import org.duckdb.DuckDBConnection;

/**
 * Rows into a Parquet file (Apache Parquet format), by an embedded DuckDB that sees one folder and nothing else. A column gets
 * the narrowest type that holds all its cells exactly.
 */
final class ParquetFile implements AutoCloseable {

    private static final String MEMORY = "256MB";

    private final Job job;
    private final Path file;
    private final Path work;
    private final DuckDBConnection database;
    private final ColumnType[] types;
    private DuckDBAppender appender;
    private long rows;

    ParquetFile(Job job) throws SQLException, IOException {
        this.job = job;
        this.file = Path.of(job.file()).toAbsolutePath();
        this.work = Files.createTempDirectory(file.getParent(), "work");
        this.database = (DuckDBConnection) DriverManager.getConnection("jdbc:duckdb:");
        this.types = new ColumnType[job.columns().size()];
        Arrays.fill(types, ColumnType.NOTHING);
        run("SET memory_limit='" + MEMORY + "'");
        run("SET threads=1");
        run("SET temp_directory=" + quoted(work.toString()));
        run("SET autoinstall_known_extensions=false");
        run("SET autoload_known_extensions=false");
        run("SET allowed_directories=[" + quoted(file.getParent().toString()) + "]");
        run("SET enable_external_access=false");
        run("SET lock_configuration=true");
        run("CREATE TABLE of_rows ("
                + IntStream.range(0, types.length)
                        .mapToObj(i -> "c" + i + " " + types[i].sql())
                        .collect(Collectors.joining(", "))
                + ")");
        appender = database.createAppender("of_rows");
    }

    private static String quoted(String text) {
        return "'" + text.replace("'", "''") + "'";
    }

    private void run(String sql) throws SQLException {
        try (Statement statement = ((Connection) database).createStatement()) {
            statement.execute(sql);
        }
    }

    void add(List<Object[]> more) throws SQLException {
        List<Integer> wider = new ArrayList<>();
        for (int i = 0; i < types.length; i++) {
            ColumnType type = types[i];
            for (Object[] row : more) {
                type = type.with(row[i]);
            }
            if (!type.sql().equals(types[i].sql())) {
                wider.add(i);
            }
            types[i] = type;
        }
        if (!wider.isEmpty()) {
            appender.close();
            for (int i : wider) {
                run("ALTER TABLE of_rows ALTER c" + i + " TYPE " + types[i].sql());
            }
            appender = database.createAppender("of_rows");
        }
        for (Object[] row : more) {
            appender.beginRow();
            for (int i = 0; i < row.length; i++) {
                put(row[i], types[i]);
            }
            appender.endRow();
        }
        rows += more.size();
    }

    private void put(Object cell, ColumnType type) throws SQLException {
        if (cell == null) {
            appender.appendNull();
            return;
        }
        switch (type.sort()) {
            case WHOLE -> appender.append((long) (Long) cell);
            case NUMBER -> appender.append(((Number) cell).doubleValue());
            case EXACT ->
                appender.append((cell instanceof Long whole ? BigDecimal.valueOf(whole) : (BigDecimal) cell)
                        .setScale(type.scale()));
            case TRUTH -> appender.append((boolean) (Boolean) cell);
            case TIME -> appender.append(((Instant) cell).atOffset(ZoneOffset.UTC));
            case DAY -> appender.append((LocalDate) cell);
            case CLOCK -> appender.append((LocalTime) cell);
            default -> appender.append(cell instanceof BigDecimal exact ? exact.toPlainString() : cell.toString());
        }
    }

    /** @return how many rows are in it */
    long finish() throws SQLException {
        appender.close();
        run("COPY (SELECT "
                + IntStream.range(0, types.length)
                        .mapToObj(i -> "c" + i + " AS \"" + job.columns().get(i).replace("\"", "\"\"") + "\"")
                        .collect(Collectors.joining(", "))
                + " FROM of_rows) TO " + quoted(file.toString()) + " (FORMAT parquet, COMPRESSION zstd)");
        return rows;
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
