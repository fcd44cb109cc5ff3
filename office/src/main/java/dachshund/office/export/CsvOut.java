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
import java.time.Instant;
import java.util.List;

/** Rows as CSV. */
final class CsvOut implements TableOut {

    private static final long MINUTE = 60;
    private static final int MILLI = 1_000_000;

    private final CsvWriter csv;
    private long minute = Long.MIN_VALUE;
    private String upToMinute = "";
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
            fields[i] = field(cells.get(i));
        }
        csv.writeRecord(fields);
    }

    private String field(Object cell) {
        if (cell == null) {
            return "";
        }
        if (cell instanceof String text) {
            return SafeCell.out(text);
        }
        return cell instanceof Instant at ? text(at) : Conversion.plain(cell);
    }

    /** As {@link Instant#toString} has it; the times of a table mostly lie in one minute with their neighbours. */
    private String text(Instant at) {
        long itsMinute = Math.floorDiv(at.getEpochSecond(), MINUTE);
        int nano = at.getNano();
        if (nano % MILLI != 0) {
            return at.toString();
        }
        if (itsMinute != minute) {
            minute = itsMinute;
            String start = Instant.ofEpochSecond(itsMinute * MINUTE).toString();
            upToMinute = start.substring(0, start.length() - "00Z".length());
        }
        int second = (int) Math.floorMod(at.getEpochSecond(), MINUTE);
        StringBuilder text = new StringBuilder(30).append(upToMinute);
        text.append((char) ('0' + second / 10)).append((char) ('0' + second % 10));
        if (nano != 0) {
            int milli = nano / MILLI;
            text.append('.')
                    .append((char) ('0' + milli / 100))
                    .append((char) ('0' + milli / 10 % 10))
                    .append((char) ('0' + milli % 10));
        }
        return text.append('Z').toString();
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
