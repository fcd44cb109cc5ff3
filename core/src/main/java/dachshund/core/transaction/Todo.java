package dachshund.core.transaction;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.tag.TagRef;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * What is to be done once the transaction is committed. It stands in the mark of the request as long as it is not known to be
 * done, so that whoever finds the mark after a death can do it.
 */
public sealed interface Todo {

    /** Most bytes that a mark holds of it, as UTF-8: some engines have room for 65,535. */
    int MOST_BYTES = 60_000;

    /** Name of the step; empty for what belongs to none. */
    String step();

    /** What it carries, as people read it. */
    Map<String, String> carries();

    /** Whether it may be done at any later time, and then has to be: what stands in databases has no age. */
    default boolean keeps() {
        return false;
    }

    /**
     * A tag is written, and read back.
     *
     * @param value Boolean, BigDecimal, String, Instant or any Number
     */
    record Write(String step, TagRef tag, Object value, double tolerance) implements Todo {
        @Override
        public Map<String, String> carries() {
            return Map.of("value", Values.words(value));
        }
    }

    /** A message goes to a broker: the id of its source. */
    record Publish(String step, String source, String topic, String payload, boolean retained) implements Todo {
        @Override
        public Map<String, String> carries() {
            return Map.of("topic", topic, "message", payload);
        }
    }

    /**
     * A line goes to the end of a file.
     *
     * @param destination id of the folder
     * @param header      the first line of a file that is new; empty for none
     */
    record Append(String step, String destination, String file, String header, String line) implements Todo {
        @Override
        public Map<String, String> carries() {
            return Map.of("file", file, "line", line);
        }
    }

    /**
     * Rows of the other database change. They were changed already, in a transaction of their own that is committed after the first
     * one; here they stand for the case that it cannot be.
     *
     * @param database id of the destination
     * @param sql      the statement, with named parameters
     * @param bound    its values, a list for each time that it is sent
     */
    record Change(String step, String database, String sql, List<List<Object>> bound) implements Todo {
        public Change {
            bound = List.copyOf(bound);
        }

        @Override
        public Map<String, String> carries() {
            return Map.of("times", Integer.toString(bound.size()));
        }

        @Override
        public boolean keeps() {
            return true;
        }
    }

    /** Another transaction is done after this one, and gets its values, by name. */
    record Begin(String transaction, Map<String, Object> values) implements Todo {
        public Begin {
            values = java.util.Collections.unmodifiableMap(new LinkedHashMap<>(values));
        }

        @Override
        public String step() {
            return "";
        }

        @Override
        public Map<String, String> carries() {
            Map<String, String> all = new LinkedHashMap<>();
            values.forEach((name, value) -> all.put(name, Values.words(value)));
            return all;
        }

        @Override
        public boolean keeps() {
            return true;
        }
    }

    ObjectMapper JSON = new ObjectMapper();

    /**
     * As a mark keeps them; empty for none.
     *
     * @param at when it came to be
     * @throws IllegalArgumentException with a sentence, where a mark has no room for it
     */
    static String written(List<Todo> all, Instant at) {
        if (all.isEmpty()) {
            return "";
        }
        ArrayNode list = JSON.createArrayNode();
        list.addObject().put("at", at.toString());
        all.forEach(each -> write(each, list.addObject()));
        String written = list.toString();
        if (written.getBytes(StandardCharsets.UTF_8).length > MOST_BYTES) {
            throw new IllegalArgumentException("What follows the commit is longer than a mark has room for ("
                    + MOST_BYTES + " bytes): let fewer rows or shorter texts follow it.");
        }
        return written;
    }

    private static void write(Todo each, ObjectNode one) {
        if (each instanceof Write write) {
            one.put("step", write.step());
            one.put("source", write.tag().source());
            one.put("address", write.tag().address());
            one.put("tolerance", write.tolerance());
            TypedValue.put(one, write.value());
        } else if (each instanceof Publish publish) {
            one.put("publish", publish.step());
            one.put("source", publish.source());
            one.put("topic", publish.topic());
            one.put("payload", publish.payload());
            one.put("retained", publish.retained());
        } else if (each instanceof Append append) {
            one.put("append", append.step());
            one.put("destination", append.destination());
            one.put("file", append.file());
            one.put("header", append.header());
            one.put("line", append.line());
        } else if (each instanceof Change change) {
            one.put("change", change.step());
            one.put("database", change.database());
            one.put("sql", change.sql());
            ArrayNode bound = one.putArray("bound");
            change.bound().forEach(values -> bound.add(TypedValue.list(values)));
        } else if (each instanceof Begin begin) {
            one.put("begin", begin.transaction());
            one.set("values", TypedValue.map(begin.values()));
        }
    }

    /** When what a mark keeps came to be; empty where it does not say, as those of before. */
    static Optional<Instant> at(String written) {
        if (written == null || written.isEmpty()) {
            return Optional.empty();
        }
        try {
            return Optional.ofNullable(JSON.readTree(written).path(0).path("at").textValue())
                    .map(Instant::parse);
        } catch (JsonProcessingException | RuntimeException unreadable) {
            throw unreadable(written, unreadable);
        }
    }

    private static IllegalArgumentException unreadable(String written, Exception why) {
        return new IllegalArgumentException("What was to follow the commit cannot be read: " + written, why);
    }

    /** @throws IllegalArgumentException where it cannot be read */
    static List<Todo> read(String written) {
        if (written == null || written.isEmpty()) {
            return List.of();
        }
        try {
            List<Todo> all = new ArrayList<>();
            for (JsonNode one : JSON.readTree(written)) {
                if (!one.has("at")) {
                    all.add(one(one));
                }
            }
            return all;
        } catch (JsonProcessingException | RuntimeException unreadable) {
            throw unreadable(written, unreadable);
        }
    }

    private static Todo one(JsonNode one) {
        if (one.has("publish")) {
            return new Publish(
                    text(one, "publish"),
                    text(one, "source"),
                    text(one, "topic"),
                    text(one, "payload"),
                    one.get("retained").booleanValue());
        }
        if (one.has("append")) {
            return new Append(
                    text(one, "append"),
                    text(one, "destination"),
                    text(one, "file"),
                    text(one, "header"),
                    text(one, "line"));
        }
        if (one.has("change")) {
            List<List<Object>> bound = new ArrayList<>();
            one.get("bound").forEach(values -> bound.add(TypedValue.list(values)));
            return new Change(text(one, "change"), text(one, "database"), text(one, "sql"), bound);
        }
        if (one.has("begin")) {
            return new Begin(text(one, "begin"), TypedValue.map(one.get("values")));
        }
        return new Write(
                text(one, "step"),
                new TagRef(text(one, "source"), text(one, "address")),
                TypedValue.get(one),
                one.get("tolerance").doubleValue());
    }

    private static String text(JsonNode one, String field) {
        return one.get(field).textValue();
    }
}
