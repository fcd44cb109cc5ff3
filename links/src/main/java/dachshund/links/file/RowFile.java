package dachshund.links.file;

import dachshund.core.layout.Column;
import dachshund.core.row.Row;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;

/** One format of files. Files are not open between two calls. */
interface RowFile {

    /** Whether rows of these columns can go on in the file that is there. */
    boolean fits(Path file, List<Column> columns) throws IOException;

    /** How many rows are in it. */
    long rows(Path file) throws IOException;

    /** Why the file cannot hold a row as it is, in a sentence; empty where it can. */
    Optional<String> refusal(List<Column> columns, Row row);

    /** Appends rows; on disk when it returns. A file that is not there is made. */
    void append(Path file, List<Column> columns, List<Row> rows) throws IOException;

    /** How many of the rows, from the first, are the last in the file; what is left of a torn one is cut off. */
    int landed(Path file, List<Column> columns, List<Row> rows) throws IOException;

    /** The last rows, oldest first, as text by column in the order of the columns; null for nothing. */
    List<List<String>> last(Path file, List<Column> columns, int limit) throws IOException;

    /** Every row, oldest first, as {@link #last} gives them. One that is only half written is left out. */
    default void each(Path file, List<Column> columns, Consumer<List<String>> taker) throws IOException {
        last(file, columns, Integer.MAX_VALUE).forEach(taker);
    }
}
