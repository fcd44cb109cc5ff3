package dachshund.core.row;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType;
import java.math.BigDecimal;
import java.util.List;

/**
 * Cells as a JSON object (RFC 8259): a member per column that has a value, in their order; times as in RFC 3339. A dot in a
 * name makes an object within.
 */
public final class RowJson {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final JsonNodeFactory NODES = new JsonNodeFactory(true);

    private RowJson() {}

    /** @param cells in the order of the columns, null for none */
    public static String write(List<Column> columns, Object[] cells) {
        ObjectNode document = NODES.objectNode();
        for (int i = 0; i < cells.length; i++) {
            if (cells[i] != null) {
                put(document, columns.get(i), cells[i]);
            }
        }
        return text(document);
    }

    static String text(ObjectNode document) {
        try {
            return JSON.writeValueAsString(document);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException("A document could not be written.", impossible);
        }
    }

    private static void put(ObjectNode document, Column field, Object cell) {
        String[] path = field.name().split("\\.", -1);
        ObjectNode place = document;
        for (int i = 0; i < path.length - 1; i++) {
            place = place.path(path[i]) instanceof ObjectNode within ? within : place.putObject(path[i]);
        }
        place.set(path[path.length - 1], node(cell, field.type()));
    }

    private static JsonNode node(Object cell, SqlType type) {
        if (cell instanceof Boolean yes) {
            return NODES.booleanNode(yes);
        }
        if (cell instanceof Long whole) {
            return NODES.numberNode(whole);
        }
        if (cell instanceof Double number) {
            return NODES.numberNode(number);
        }
        if (cell instanceof BigDecimal exact) {
            return NODES.numberNode(exact);
        }
        if (type.family() == SqlType.Family.JSON) {
            try {
                return JSON.readTree(cell.toString());
            } catch (JsonProcessingException impossible) {
                throw new IllegalStateException("A JSON cell was not JSON.", impossible);
            }
        }
        return NODES.textNode(Conversion.plain(cell));
    }
}
