package dachshund.core.definition;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.jsontype.NamedType;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dachshund.core.layout.ColumnSource;
import dachshund.core.when.When;

/**
 * Definitions as JSON documents (RFC 8259). Each carries a {@code schemaVersion}; older documents are brought up to
 * date when read. What a document looks like is held by golden files in the tests.
 */
public final class DefinitionCodec {

    /** Version of the documents written today. */
    public static final int SCHEMA_VERSION = 1;

    private static final ObjectMapper JSON = JsonMapper.builder()
            .addModule(new JavaTimeModule()).addModule(new Jdk8Module())
            .disable(SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS, SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .disable(MapperFeature.AUTO_DETECT_IS_GETTERS)
            .enable(SerializationFeature.ORDER_MAP_ENTRIES_BY_KEYS)
            .enable(DeserializationFeature.FAIL_ON_NULL_CREATOR_PROPERTIES)
            .addMixIn(Definition.class, Kinded.class).addMixIn(When.class, Kinded.class).addMixIn(ColumnSource.class, Kinded.class)
            .build();

    static {
        JSON.registerSubtypes(new NamedType(SourceDefinition.class, "source"),
                new NamedType(DestinationDefinition.class, "destination"), new NamedType(RecorderDefinition.class, "recorder"),
                new NamedType(When.Every.class, "every"),
                new NamedType(ColumnSource.FromTag.class, "tag"), new NamedType(ColumnSource.Constant.class, "constant"),
                new NamedType(ColumnSource.FromRun.class, "run"), new NamedType(ColumnSource.AutoNumber.class, "autoNumber"));
    }

    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    private interface Kinded {
        @JsonIgnore
        Object kind();
    }

    private DefinitionCodec() {
    }

    public static String write(Definition definition) {
        ObjectNode document = JSON.valueToTree(definition);
        document.put("schemaVersion", SCHEMA_VERSION);
        try {
            return JSON.writeValueAsString(document);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException("A definition could not be written: " + definition.name(), impossible);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where the text is no definition or from a newer version */
    public static Definition read(String text) {
        try {
            JsonNode document = JSON.readTree(text);
            int version = document.path("schemaVersion").asInt(0);
            if (version < 1 || version > SCHEMA_VERSION) {
                throw new IllegalArgumentException("This definition was written by another version of Dachshund (schema "
                        + version + "; this one reads 1 to " + SCHEMA_VERSION + ").");
            }
            ((ObjectNode) document).remove("schemaVersion");
            return JSON.treeToValue(document, Definition.class);
        } catch (JsonProcessingException problem) {
            throw new IllegalArgumentException("This is not a definition: " + problem.getOriginalMessage(), problem);
        }
    }
}
