package dachshund.office.export;

import dachshund.core.reader.TableShape;
import java.io.Closeable;
import java.io.IOException;
import java.util.List;

/** Rows on their way out into a file of some format, one after the other; nothing holds them all. */
public interface TableOut extends Closeable {

    /** Once, before the first row. */
    void columns(List<TableShape.Column> columns) throws IOException;

    /** @param cells as {@link dachshund.core.reader.TableReading.Taker#row} has them */
    void row(List<Object> cells) throws IOException;

    /** All rows are there: the file is ended. Closing without it leaves one that is not whole. */
    void finish() throws IOException;
}
