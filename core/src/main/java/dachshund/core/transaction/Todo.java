package dachshund.core.transaction;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.tag.TagRef;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * A tag that is to be written once the transaction is committed. It stands in the mark of the request as long as it is not known
 * to be done, so that whoever finds the mark after a death can do it.
 *
 * @param step  name of the step
 * @param value Boolean, BigDecimal, String, Instant or any Number
 */
public record Todo(String step, TagRef tag, Object value, double tolerance) {

    private static final ObjectMapper JSON = new ObjectMapper();

    /** As a mark keeps them; empty for none. */
    public static String written(List<Todo> all) {
        if (all.isEmpty()) {
            return "";
        }
        ArrayNode list = JSON.createArrayNode();
        for (Todo each : all) {
            ObjectNode one = list.addObject();
            one.put("step", each.step());
            one.put("source", each.tag().source());
            one.put("address", each.tag().address());
            one.put("tolerance", each.tolerance());
            if (each.value() instanceof Boolean truth) {
                one.put("truth", truth);
            } else if (each.value() instanceof Number number) {
                one.put("number", number instanceof BigDecimal exact ? exact.toPlainString() : number.toString());
            } else if (each.value() instanceof Instant time) {
                one.put("time", time.toString());
            } else {
                one.put("text", each.value().toString());
            }
        }
        return list.toString();
    }

    /** @throws IllegalArgumentException where it cannot be read */
    public static List<Todo> read(String written) {
        if (written.isEmpty()) {
            return List.of();
        }
        try {
            List<Todo> all = new ArrayList<>();
            for (JsonNode one : JSON.readTree(written)) {
                Object value = one.has("truth")
                        ? (Object) one.get("truth").booleanValue()
                        : one.has("number")
                                ? new BigDecimal(one.get("number").textValue())
                                : one.has("time")
                                        ? Instant.parse(one.get("time").textValue())
                                        : one.get("text").textValue();
                all.add(new Todo(
                        one.get("step").textValue(),
                        new TagRef(
                                one.get("source").textValue(),
                                one.get("address").textValue()),
                        value,
                        one.get("tolerance").doubleValue()));
            }
            return all;
        } catch (JsonProcessingException | RuntimeException unreadable) {
            throw new IllegalArgumentException("What was to follow the commit cannot be read: " + written, unreadable);
        }
    }
}
