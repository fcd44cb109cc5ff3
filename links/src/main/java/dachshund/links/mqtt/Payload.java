package dachshund.links.mqtt;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.json.JsonMapper;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagText;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.format.DateTimeParseException;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/** What a message says: a plain value, or JSON (RFC 8259) whose parts are found by JSON Pointer (RFC 6901). */
final class Payload {

    private static final int LARGEST = 1 << 20;
    private static final int PARTS = 200;
    private static final ObjectMapper JSON = JsonMapper.builder()
            .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
            .enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS)
            .build();
    private static final double SECONDS_BELOW = 1e11; // seconds until the year 5138, milliseconds from 1973 on

    /** A message that does not say what a tag wants of it. The message is a few words. */
    static final class Malformed extends Exception {
        Malformed(String words) {
            super(words, null, false, false);
        }
    }

    private final String text;
    private JsonNode json;

    /** @throws Malformed where it is too large or no text */
    Payload(ByteBuffer bytes) throws Malformed {
        if (bytes.remaining() > LARGEST) {
            throw new Malformed("the message is larger than 1 MB");
        }
        try {
            text = StandardCharsets.UTF_8.newDecoder().decode(bytes.duplicate()).toString();
        } catch (CharacterCodingException notText) {
            throw new Malformed("the message is no text in UTF-8");
        }
    }

    String text() {
        return text;
    }

    private JsonNode at(String pointer) throws Malformed {
        if (json == null) {
            try {
                json = JSON.readTree(text);
            } catch (JsonProcessingException notJson) {
                throw new Malformed("the message is no JSON");
            }
        }
        JsonNode node = json == null ? null : json.at(pointer);
        if (node == null || node.isMissingNode()) {
            throw new Malformed("the JSON has nothing at " + pointer);
        }
        return node;
    }

    /**
     * The value of a tag; absent for JSON null.
     *
     * @param pointer empty for the whole message as a plain value
     */
    Optional<Object> value(String pointer, DataKind kind) throws Malformed {
        String plain = text;
        if (!pointer.isEmpty()) {
            JsonNode node = at(pointer);
            if (node.isNull()) {
                return Optional.empty();
            }
            plain = node.isValueNode() ? node.asText() : node.toString();
        }
        try {
            if (kind == DataKind.TIME) {
                return Optional.of(instant(plain));
            }
            return Optional.of(TagText.read(kind, plain));
        } catch (IllegalArgumentException | DateTimeParseException other) {
            throw new Malformed("\"" + (plain.length() > 40 ? plain.substring(0, 40) + "…" : plain) + "\" is not a "
                    + kind.words());
        }
    }

    /** The message's own time: RFC 3339, or seconds or milliseconds since 1970. */
    Instant time(String pointer) throws Malformed {
        try {
            return instant(at(pointer).asText());
        } catch (DateTimeParseException | NumberFormatException noTime) {
            throw new Malformed("what stands at " + pointer + " is no time");
        }
    }

    private static Instant instant(String text) {
        if (text.matches("\\d+(\\.\\d+)?")) {
            java.math.BigDecimal number = new java.math.BigDecimal(text);
            java.math.BigDecimal nanos = number.movePointRight(number.doubleValue() < SECONDS_BELOW ? 9 : 6);
            java.math.BigDecimal[] parts = nanos.divideAndRemainder(java.math.BigDecimal.valueOf(1_000_000_000L));
            return Instant.ofEpochSecond(parts[0].longValue(), parts[1].longValue());
        }
        return OffsetDateTime.parse(text).toInstant();
    }

    /** The values in a message by pointer: one with an empty pointer for a plain value. */
    static Map<String, JsonNode> parts(String text) {
        Map<String, JsonNode> parts = new LinkedHashMap<>();
        JsonNode root;
        try {
            root = JSON.readTree(text);
        } catch (JsonProcessingException plain) {
            root = null;
        }
        if (root == null || !root.isContainerNode()) {
            parts.put(
                    "",
                    root == null || root.isMissingNode() ? JSON.getNodeFactory().textNode(text) : root);
        } else {
            collect(root, "", parts);
        }
        return parts;
    }

    private static void collect(JsonNode node, String pointer, Map<String, JsonNode> parts) {
        if (parts.size() >= PARTS) {
            return;
        }
        if (node.isObject()) {
            node.properties()
                    .forEach(field -> collect(
                            field.getValue(),
                            pointer + "/" + field.getKey().replace("~", "~0").replace("/", "~1"),
                            parts));
        } else if (node.isArray()) {
            for (int i = 0; i < node.size(); i++) {
                collect(node.get(i), pointer + "/" + i, parts);
            }
        } else {
            parts.put(pointer, node);
        }
    }

    /** The tag that a part of a message would be. */
    static TagInfo tag(String topic, String path, String pointer, JsonNode value) {
        String level = topic.substring(topic.lastIndexOf('/') + 1);
        DataKind kind = value.isBoolean() ? DataKind.BOOLEAN : value.isNumber() ? DataKind.NUMBER : DataKind.TEXT;
        String name =
                pointer.isEmpty() ? level : level + " " + pointer.substring(1).replace('/', ' ');
        Map<String, String> how = new LinkedHashMap<>();
        how.put("topic", topic);
        if (!pointer.isEmpty()) {
            how.put("pointer", pointer);
        }
        return new TagInfo(pointer.isEmpty() ? topic : topic + " " + pointer, path, name, kind, "", "", false)
                .withHow(how);
    }
}
