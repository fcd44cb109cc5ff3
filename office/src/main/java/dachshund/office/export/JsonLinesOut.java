package dachshund.office.export;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.StreamWriteFeature;
import com.fasterxml.jackson.core.util.MinimalPrettyPrinter;
import dachshund.core.reader.TableShape;
import java.io.IOException;
import java.io.OutputStream;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.List;

/** Rows as JSON Lines. */
final class JsonLinesOut implements TableOut {

    private final JsonGenerator json;
    private List<String> names = List.of();
    private boolean any;

    JsonLinesOut(OutputStream to) throws IOException {
        json = JsonFactory.builder()
                .enable(StreamWriteFeature.WRITE_BIGDECIMAL_AS_PLAIN)
                .disable(StreamWriteFeature.AUTO_CLOSE_TARGET)
                // What broke off is not sent: there may be a sentence in its place yet.
                .disable(StreamWriteFeature.FLUSH_PASSED_TO_STREAM)
                .build()
                .createGenerator(to);
        json.setPrettyPrinter(new MinimalPrettyPrinter("\n"));
    }

    @Override
    public void columns(List<TableShape.Column> columns) {
        names = columns.stream().map(TableShape.Column::name).toList();
    }

    @Override
    public void row(List<Object> cells) throws IOException {
        any = true;
        json.writeStartObject();
        for (int i = 0; i < names.size(); i++) {
            json.writeFieldName(names.get(i));
            Object cell = cells.get(i);
            if (cell == null) {
                json.writeNull();
            } else if (cell instanceof Long whole) {
                json.writeNumber(whole);
            } else if (cell instanceof Double number) {
                json.writeNumber(number);
            } else if (cell instanceof BigDecimal exact) {
                json.writeNumber(exact);
            } else if (cell instanceof BigInteger large) {
                json.writeNumber(large);
            } else if (cell instanceof Boolean yes) {
                json.writeBoolean(yes);
            } else {
                json.writeString(cell.toString());
            }
        }
        json.writeEndObject();
    }

    @Override
    public void finish() throws IOException {
        if (any) {
            json.writeRaw('\n');
        }
        json.flush();
    }

    @Override
    public void close() throws IOException {
        json.close();
    }
}
