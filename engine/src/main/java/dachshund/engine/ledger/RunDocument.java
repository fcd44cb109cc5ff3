package dachshund.engine.ledger;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonToken;
import dachshund.core.ledger.Noted;
import dachshund.core.ledger.Run;
import dachshund.core.transaction.StepRun;
import java.io.IOException;
import java.io.StringWriter;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;

/** Runs as JSON (RFC 8259), field by field: each run of every transaction is written so, and each that is looked for read. */
public final class RunDocument {

    private static final JsonFactory JSON = new JsonFactory();

    private RunDocument() {}

    public static String write(Run run) {
        StringWriter text = new StringWriter(1024);
        try (JsonGenerator json = JSON.createGenerator(text)) {
            json.writeStartObject();
            json.writeStringField("id", run.id());
            json.writeStringField("thing", run.thing());
            json.writeStringField("name", run.name());
            instant(json, "fired", run.fired());
            instant(json, "begun", run.begun());
            json.writeStringField("why", run.why());
            json.writeStringField("request", run.request());
            json.writeStringField("outcome", run.outcome().name());
            json.writeNumberField("millis", run.millis());
            json.writeNumberField("tries", run.tries());
            json.writeObjectFieldStart("snapshot");
            for (Map.Entry<String, Run.Read> each : run.snapshot().entrySet()) {
                json.writeObjectFieldStart(each.getKey());
                json.writeStringField("value", each.getValue().value());
                instant(json, "at", each.getValue().at());
                json.writeStringField("quality", each.getValue().quality());
                json.writeEndObject();
            }
            json.writeEndObject();
            json.writeArrayFieldStart("steps");
            for (StepRun each : run.steps()) {
                step(json, each);
            }
            json.writeEndArray();
            json.writeStringField("reason", run.reason());
            json.writeNumberField("code", run.code());
            json.writeStringField("text", run.text());
            json.writeStringField("answered", run.answered());
            texts(json, "keys", run.keys());
            json.writeEndObject();
        } catch (IOException never) {
            throw new IllegalStateException(never); // it goes to a text
        }
        return text.toString();
    }

    /** What a run is found by, and its document. */
    public static Noted noted(Run run) {
        return new Noted(run.id(), run.thing(), run.fired(), run.outcome(), run.millis(), run.keys(), write(run));
    }

    private static void step(JsonGenerator json, StepRun step) throws IOException {
        json.writeStartObject();
        json.writeStringField("name", step.name());
        json.writeStringField("fate", step.fate().name());
        json.writeStringField("statement", step.statement());
        texts(json, "values", step.values());
        json.writeNumberField("rows", step.rows());
        json.writeNumberField("micros", step.micros());
        json.writeStringField("said", step.said());
        json.writeEndObject();
    }

    private static void texts(JsonGenerator json, String field, Map<String, String> texts) throws IOException {
        json.writeObjectFieldStart(field);
        for (Map.Entry<String, String> each : texts.entrySet()) {
            json.writeStringField(each.getKey(), each.getValue());
        }
        json.writeEndObject();
    }

    private static void instant(JsonGenerator json, String field, Instant at) throws IOException {
        json.writeStringField(field, at == null ? null : at.toString());
    }

    /**
     * What a run is found by, without the rest of its document being read.
     *
     * @throws IllegalArgumentException where it is none
     */
    public static Noted noted(String document) {
        return reading(document, json -> {
            Map<String, String> keys = new LinkedHashMap<>();
            Map<String, String> fields = fields(json, (field, value) -> {
                if (field.equals("keys")) {
                    keys.putAll(texts(json));
                } else {
                    json.skipChildren();
                }
            });
            return new Noted(
                    needed(fields, "id"),
                    needed(fields, "thing"),
                    Instant.parse(needed(fields, "fired")),
                    Run.Outcome.valueOf(needed(fields, "outcome")),
                    Long.parseLong(needed(fields, "millis")),
                    keys,
                    document);
        });
    }

    /** @throws IllegalArgumentException where it is none */
    public static Run read(String document) {
        return reading(document, json -> {
            Map<String, Run.Read> snapshot = new LinkedHashMap<>();
            List<StepRun> steps = new ArrayList<>();
            Map<String, String> keys = new LinkedHashMap<>();
            Map<String, String> fields = fields(json, (field, value) -> {
                switch (field) {
                    case "snapshot" -> {
                        while (json.nextToken() == JsonToken.FIELD_NAME) {
                            String name = json.currentName();
                            json.nextToken();
                            Map<String, String> one = fields(json, (inner, token) -> json.skipChildren());
                            snapshot.put(
                                    name, new Run.Read(one.get("value"), instant(one.get("at")), one.get("quality")));
                        }
                    }
                    case "steps" -> {
                        while (json.nextToken() == JsonToken.START_OBJECT) {
                            steps.add(step(json));
                        }
                    }
                    case "keys" -> keys.putAll(texts(json));
                    default -> json.skipChildren();
                }
            });
            return new Run(
                    needed(fields, "id"),
                    needed(fields, "thing"),
                    fields.get("name"),
                    Instant.parse(needed(fields, "fired")),
                    instant(fields.get("begun")),
                    fields.get("why"),
                    fields.get("request"),
                    Run.Outcome.valueOf(needed(fields, "outcome")),
                    Long.parseLong(needed(fields, "millis")),
                    Integer.parseInt(needed(fields, "tries")),
                    snapshot,
                    steps,
                    fields.get("reason"),
                    Long.parseLong(needed(fields, "code")),
                    fields.get("text"),
                    fields.get("answered"),
                    keys);
        });
    }

    private static StepRun step(JsonParser json) throws IOException {
        Map<String, String> values = new LinkedHashMap<>();
        Map<String, String> fields = fields(json, (field, token) -> {
            if (field.equals("values")) {
                values.putAll(texts(json));
            } else {
                json.skipChildren();
            }
        });
        return new StepRun(
                fields.get("name"),
                StepRun.Fate.valueOf(needed(fields, "fate")),
                fields.get("statement"),
                values,
                Long.parseLong(needed(fields, "rows")),
                Long.parseLong(needed(fields, "micros")),
                fields.get("said"));
    }

    @FunctionalInterface
    private interface Reading<T> {
        T of(JsonParser json) throws IOException;
    }

    @FunctionalInterface
    private interface Within {
        void read(String field, JsonToken value) throws IOException;
    }

    private static <T> T reading(String document, Reading<T> reading) {
        try (JsonParser json = JSON.createParser(document)) {
            if (json.nextToken() != JsonToken.START_OBJECT) {
                throw new IllegalArgumentException("it is no object.");
            }
            return reading.of(json);
        } catch (IOException | RuntimeException no) {
            throw new IllegalArgumentException("A run cannot be read back: " + no.getMessage(), no);
        }
    }

    /** The fields of an object that has begun; what is no single value is read by whoever knows it. */
    private static Map<String, String> fields(JsonParser json, Within within) throws IOException {
        Map<String, String> fields = new HashMap<>();
        while (json.nextToken() == JsonToken.FIELD_NAME) {
            String field = json.currentName();
            JsonToken value = json.nextToken();
            if (value.isScalarValue()) {
                fields.put(field, json.getValueAsString());
            } else {
                within.read(field, value);
            }
        }
        return fields;
    }

    private static Map<String, String> texts(JsonParser json) throws IOException {
        Map<String, String> texts = new LinkedHashMap<>();
        while (json.nextToken() == JsonToken.FIELD_NAME) {
            String name = json.currentName();
            json.nextToken();
            texts.put(name, json.getValueAsString());
        }
        return texts;
    }

    private static String needed(Map<String, String> fields, String name) {
        return Objects.requireNonNull(fields.get(name), name + " is missing.");
    }

    private static Instant instant(String text) {
        return text == null ? null : Instant.parse(text);
    }
}
