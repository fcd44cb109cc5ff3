package dachshund.core.ledger;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;

/** Runs as JSON (RFC 8259). */
public final class RunDocument {

    private static final ObjectMapper JSON = JsonMapper.builder()
            .addModule(new JavaTimeModule())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .disable(MapperFeature.AUTO_DETECT_IS_GETTERS)
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .build();

    private RunDocument() {}

    public static String write(Run run) {
        try {
            return JSON.writeValueAsString(run);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    /** @throws IllegalArgumentException where it is none */
    public static Run read(String document) {
        try {
            return JSON.readValue(document, Run.class);
        } catch (JsonProcessingException no) {
            throw new IllegalArgumentException("A run cannot be read back: " + no.getOriginalMessage(), no);
        }
    }
}
