package dachshund.office.export;

import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.Question;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableReading.Read;
import dachshund.core.reader.TableShape;
import dachshund.office.heavy.Heavy;
import java.io.IOException;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.util.List;
import org.springframework.stereotype.Component;

/** Tables out of databases into files, row by row. */
@Component
public class Exports {

    private final Heavy heavy;

    /** Whatever hands out rows. */
    public interface Rows {

        /** @return how many it gave */
        long give(TableReading.Taker taker) throws StoreProblem, QueryProblem;
    }

    public Exports(Heavy heavy) {
        this.heavy = heavy;
    }

    /** A file of some format into a stream, which it does not close. */
    public TableOut open(FileFormat format, OutputStream to) throws IOException {
        return switch (format) {
            case CSV -> new CsvOut(to);
            case JSON_LINES -> new JsonLinesOut(to);
            case WORKBOOK -> new WorkbookOut(to);
            case PARQUET -> new ParquetOut(heavy, to);
        };
    }

    /**
     * Writes the rows that are asked for; the stream is not closed.
     *
     * @throws StoreProblem where the database breaks off; what was written is not whole then
     * @throws IOException  where the stream or the format does
     */
    public Read write(TableReading reading, Question question, FileFormat format, OutputStream to)
            throws StoreProblem, IOException {
        try (TableOut out = open(format, to)) {
            Read read = reading.read(question, TableReading.WHOLE, new Into(out));
            out.finish();
            return read;
        } catch (UncheckedIOException broke) {
            throw broke.getCause();
        }
    }

    /**
     * Writes the rows that a query gives; the stream is not closed.
     *
     * @return how many
     * @throws StoreProblem where the database breaks off; what was written is not whole then
     * @throws QueryProblem where it refuses the query
     * @throws IOException  where the stream or the format does
     */
    public long write(Rows rows, FileFormat format, OutputStream to) throws StoreProblem, QueryProblem, IOException {
        try (TableOut out = open(format, to)) {
            long given = rows.give(new Into(out));
            out.finish();
            return given;
        } catch (UncheckedIOException broke) {
            throw broke.getCause();
        }
    }

    /** What a database hands out, into a file. */
    private record Into(TableOut out) implements TableReading.Taker {

        @Override
        public void columns(List<TableShape.Column> columns) {
            try {
                out.columns(columns);
            } catch (IOException broke) {
                throw new UncheckedIOException(broke);
            }
        }

        @Override
        public boolean row(List<Object> cells) {
            try {
                out.row(cells);
                return true;
            } catch (IOException broke) {
                throw new UncheckedIOException(broke);
            }
        }
    }
}
