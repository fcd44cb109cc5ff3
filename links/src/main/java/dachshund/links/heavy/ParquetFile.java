package dachshund.links.heavy;

import java.io.IOException;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/** Rows into a Parquet file (Apache Parquet format). */
final class ParquetFile implements AutoCloseable {

    private final Job job;
    private final Path file;
    private final OwnDuck duck;
    private final RowsTable rows;

    ParquetFile(Job job) throws SQLException, IOException {
        this.job = job;
        this.file = Path.of(job.file()).toAbsolutePath();
        this.duck = new OwnDuck(file.getParent(), Optional.of(file.getParent()), "UTC");
        // Names of people may differ by capitals alone, which DuckDB's may not.
        this.rows = new RowsTable(
                duck,
                "of_rows",
                IntStream.range(0, job.columns().size()).mapToObj(i -> "c" + i).toList());
    }

    void add(List<Object[]> more) throws SQLException {
        rows.add(more);
    }

    /** @return how many rows are in it */
    long finish() throws SQLException {
        long count = rows.finish(List.of());
        duck.run("COPY (SELECT "
                + IntStream.range(0, job.columns().size())
                        .mapToObj(i ->
                                "c" + i + " AS " + OwnDuck.name(job.columns().get(i)))
                        .collect(Collectors.joining(", "))
                + " FROM of_rows) TO " + OwnDuck.quoted(file.toString()) + " (FORMAT parquet, COMPRESSION zstd)");
        return count;
    }

    @Override
    public void close() throws SQLException, IOException {
        duck.close();
    }
}
