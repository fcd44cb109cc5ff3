package dachshund.core.transaction;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Values of a run as JSON that gives them back as they were: numbers exactly, times as times. */
public final class TypedValue {

    private static final JsonNodeFactory NODES = JsonNodeFactory.instance;

    private TypedValue() {}

    /** @param value Boolean, Number, String, Instant, LocalDate, LocalTime, bytes, or null for nothing; anything else as a text */
    static void put(ObjectNode one, Object value) {
        if (value == null) {
            one.putNull("nothing");
        } else if (value instanceof Boolean truth) {
            one.put("truth", truth);
        } else if (value instanceof Number number) {
            one.put("number", number instanceof BigDecimal exact ? exact.toPlainString() : number.toString());
        } else if (value instanceof Instant time) {
            one.put("time", time.toString());
        } else if (value instanceof LocalDate date) {
            one.put("date", date.toString());
        } else if (value instanceof LocalTime clock) {
            one.put("clock", clock.toString());
        } else if (value instanceof byte[] bytes) {
            one.put("bytes", Base64.getEncoder().encodeToString(bytes));
        } else {
            one.put("text", value.toString());
        }
    }

    static Object get(JsonNode one) {
        if (one.has("truth")) {
            return one.get("truth").booleanValue();
        }
        if (one.has("number")) {
            return number(one.get("number").textValue());
        }
        if (one.has("time")) {
            return Instant.parse(one.get("time").textValue());
        }
        if (one.has("date")) {
            return LocalDate.parse(one.get("date").textValue());
        }
        if (one.has("clock")) {
            return LocalTime.parse(one.get("clock").textValue());
        }
        if (one.has("bytes")) {
            return Base64.getDecoder().decode(one.get("bytes").textValue());
        }
        return one.has("nothing") ? null : one.get("text").textValue();
    }

    /** What is no number in decimals (NaN, infinite) stays what it is. */
    private static Object number(String text) {
        return text.endsWith("N") || text.endsWith("y") ? (Object) Double.valueOf(text) : new BigDecimal(text);
    }

    static ArrayNode list(List<Object> values) {
        ArrayNode all = NODES.arrayNode();
        values.forEach(value -> put(all.addObject(), value));
        return all;
    }

    static List<Object> list(JsonNode written) {
        List<Object> all = new ArrayList<>();
        written.forEach(each -> all.add(get(each)));
        return all;
    }

    public static ObjectNode map(Map<String, Object> values) {
        ObjectNode all = NODES.objectNode();
        values.forEach((name, value) -> put(all.putObject(name), value));
        return all;
    }

    public static Map<String, Object> map(JsonNode written) {
        Map<String, Object> all = new LinkedHashMap<>();
        written.properties().forEach(each -> all.put(each.getKey(), get(each.getValue())));
        return all;
    }
}
