package dachshund.core.definition;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSetter;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.Nulls;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonMappingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.jsontype.NamedType;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dachshund.core.destination.WriteMode;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.tag.Range;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Confirmation;
import dachshund.core.when.When;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.stream.Collectors;

/**
 * Definitions as JSON documents (RFC 8259). Each carries a {@code schemaVersion}; older documents are brought up to
 * date when read. What a document looks like is held by golden files in the tests.
 */
public final class DefinitionCodec {

    /** Version of the documents written today. */
    public static final int SCHEMA_VERSION = 2;

    private static final ObjectMapper JSON = JsonMapper.builder()
            .addModule(new JavaTimeModule())
            .addModule(new Jdk8Module())
            .disable(SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS, SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .disable(MapperFeature.AUTO_DETECT_IS_GETTERS)
            .enable(SerializationFeature.ORDER_MAP_ENTRIES_BY_KEYS)
            .enable(DeserializationFeature.FAIL_ON_NULL_CREATOR_PROPERTIES)
            .addMixIn(Definition.class, Kinded.class)
            .addMixIn(When.class, Kinded.class)
            .addMixIn(ColumnSource.class, Kinded.class)
            .addMixIn(Column.class, ShortColumn.class)
            .addMixIn(WriteMode.class, Kinded.class)
            .addMixIn(WriteMode.Call.class, Called.class)
            .addMixIn(PropertySource.class, Kinded.class)
            .addMixIn(TagInfo.class, ShortTag.class)
            .addMixIn(SourceDefinition.class, ShortSource.class)
            .addMixIn(RecorderDefinition.class, ShortRecorder.class)
            .addMixIn(RecorderDefinition.Where.class, ShortWhere.class)
            .addMixIn(Follows.class, ShortFollows.class)
            .addMixIn(RecorderDefinition.Made.class, ShortRecorder.class)
            .withConfigOverride(
                    List.class, absent -> absent.setSetterInfo(JsonSetter.Value.forValueNulls(Nulls.AS_EMPTY)))
            .withConfigOverride(
                    String.class, absent -> absent.setSetterInfo(JsonSetter.Value.forValueNulls(Nulls.AS_EMPTY)))
            .withConfigOverride(
                    Map.class, absent -> absent.setSetterInfo(JsonSetter.Value.forValueNulls(Nulls.AS_EMPTY)))
            .build();

    static {
        DefinitionKinds.all().forEach(kind -> JSON.registerSubtypes(new NamedType(kind.type(), kind.document())));
        ColumnSource.DOCUMENTS.forEach((name, type) -> JSON.registerSubtypes(new NamedType(type, name)));
        DefinitionKinds.all().forEach(kind -> kind.choices().forEach((choice, all) -> {
            JSON.addMixIn(choice, Kinded.class);
            all.forEach((name, type) -> JSON.registerSubtypes(new NamedType(type, name)));
        }));
        When.DOCUMENTS.forEach((name, type) -> JSON.registerSubtypes(new NamedType(type, name)));
        JSON.registerSubtypes(
                new NamedType(PropertySource.FromTag.class, "tag"),
                new NamedType(PropertySource.Constant.class, "constant"),
                new NamedType(WriteMode.Insert.class, "insert"),
                new NamedType(WriteMode.Update.class, "update"),
                new NamedType(WriteMode.InsertOrUpdate.class, "insertOrUpdate"),
                new NamedType(WriteMode.Call.class, "call"));
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    private interface Called {
        /** What was designed before arguments had columns stays as it was written. */
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        List<String> columns();
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    private interface Kinded {
        @JsonIgnore
        Object kind();
    }

    /** Facts that most tags lack are left out: a list of 50,000 tags stays short. */
    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortTag {
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Optional<Range> range();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        OptionalInt decimals();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Optional<Duration> changesWithin();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        List<String> labels();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Map<String, String> how();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Map<String, String> original();
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortColumn {
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        String heading();
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortSource {
        @JsonInclude(JsonInclude.Include.NON_DEFAULT)
        boolean writing();
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortRecorder {
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Optional<Confirmation> confirms();
    }

    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortWhere {
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        String database();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        String named();

        @JsonIgnore
        Object place();
    }

    /** What lines had to say before more could be said stays as it was written. */
    @SuppressWarnings("UnusedMethod") // read by the JSON library
    private interface ShortFollows {
        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        List<TagRef> shared();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        List<TagRef> leftOut();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Map<String, String> names();

        @JsonInclude(JsonInclude.Include.NON_EMPTY)
        Optional<?> made();
    }

    private DefinitionCodec() {}

    /** A list of tags as JSON, for a document that keeps its tags apart. */
    public static String writeTags(List<TagInfo> tags) {
        try {
            return JSON.writeValueAsString(tags);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException("A list of tags could not be written.", impossible);
        }
    }

    /** @throws IllegalArgumentException where the text is no list of tags */
    public static List<TagInfo> readTags(String text) {
        try {
            return List.of(JSON.readValue(text, TagInfo[].class));
        } catch (JsonProcessingException problem) {
            throw new IllegalArgumentException("This is no list of tags: " + sentence(problem), problem);
        }
    }

    /** What is wrong where, in words of the document; what a class complains of itself is a sentence already. */
    private static String sentence(JsonProcessingException problem) {
        if (!(problem instanceof JsonMappingException mapping)) {
            return problem.getOriginalMessage();
        }
        String where = mapping.getPath().stream()
                .map(step -> step.getFieldName() == null ? "[" + step.getIndex() + "]" : step.getFieldName())
                .collect(Collectors.joining("."));
        String why = problem.getCause() instanceof IllegalArgumentException own && own.getMessage() != null
                ? own.getMessage()
                : "it is missing something or is of another kind than it should be.";
        return (where.isEmpty() ? "" : "in " + where.replace(".[", "[") + ": ") + why;
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
                throw new IllegalArgumentException(
                        "This definition was written by another version of Dachshund (schema " + version
                                + "; this one reads 1 to " + SCHEMA_VERSION + ").");
            }
            ((ObjectNode) document).remove("schemaVersion");
            String is = document.path("is").asText();
            DefinitionKinds.all().stream()
                    .filter(kind -> kind.document().equals(is))
                    .forEach(kind -> kind.upToDate((ObjectNode) document, version));
            return JSON.treeToValue(document, Definition.class);
        } catch (JsonProcessingException problem) {
            throw new IllegalArgumentException("This is not a definition: " + sentence(problem), problem);
        }
    }
}
