package dachshund.office.export;

import dachshund.core.reader.TableShape;
import dachshund.core.row.Conversion;
import dachshund.core.text.SafeCell;
import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.List;

/** Rows as CSV. */
final class CsvOut implements TableOut {

    private final CsvWriter csv;
    private String[] fields = {};

    CsvOut(OutputStream to) throws IOException {
        Writer out = new OutputStreamWriter(to, StandardCharsets.UTF_8);
        out.write('\uFEFF');
        csv = CsvWriter.builder().lineDelimiter(LineDelimiter.CRLF).build(out);
    }

    @Override
    public void columns(List<TableShape.Column> columns) {
        fields =
                columns.stream().map(TableShape.Column::name).map(SafeCell::out).toArray(String[]::new);
        csv.writeRecord(fields);
    }

    @Override
    public void row(List<Object> cells) {
        for (int i = 0; i < fields.length; i++) {
            Object cell = cells.get(i);
            fields[i] = cell == null ? "" : cell instanceof String text ? SafeCell.out(text) : Conversion.plain(cell);
        }
        csv.writeRecord(fields);
    }

    @Override
    public void finish() throws IOException {
        csv.flush();
    }

    @Override
    public void close() {
        // The stream is another's.
    }
}
