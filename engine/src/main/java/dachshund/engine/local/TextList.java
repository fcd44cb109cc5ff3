package dachshund.engine.local;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;

/** A list of texts, null among them, in one text, as a JSON array (RFC 8259). */
final class TextList {

    private static final ObjectMapper JSON = new ObjectMapper();

    private TextList() {}

    static String write(List<String> texts) {
        try {
            return JSON.writeValueAsString(texts);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    static List<String> read(String array) {
        try {
            return Collections.unmodifiableList(Arrays.asList(JSON.readValue(array, String[].class)));
        } catch (JsonProcessingException altered) {
            throw new IllegalStateException("Not a list of texts: " + array, altered);
        }
    }
}
