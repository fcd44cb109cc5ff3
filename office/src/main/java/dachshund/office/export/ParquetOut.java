package dachshund.office.export;

import dachshund.core.reader.TableShape;
import dachshund.office.heavy.Heavy;
import dachshund.office.heavy.HeavyParquet;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.util.List;

/** Rows as Parquet, made by the second process into a file and handed on when it is whole. */
final class ParquetOut implements TableOut {

    private final Heavy heavy;
    private final OutputStream to;
    private HeavyParquet parquet;

    ParquetOut(Heavy heavy, OutputStream to) {
        this.heavy = heavy;
        this.to = to;
    }

    @Override
    public void columns(List<TableShape.Column> columns) throws IOException {
        parquet = heavy.parquet(columns.stream().map(TableShape.Column::name).toList());
    }

    @Override
    public void row(List<Object> cells) throws IOException {
        parquet.row(cells);
    }

    @Override
    public void finish() throws IOException {
        Files.copy(parquet.finish(), to);
    }

    @Override
    public void close() throws IOException {
        if (parquet != null) {
            parquet.close();
        }
    }
}
