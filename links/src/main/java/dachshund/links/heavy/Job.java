package dachshund.links.heavy;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.List;

/**
 * Work for the second process: rows into a Parquet file.
 *
 * @param columns names, in the order of the cells
 * @param file    that is written
 */
public record Job(List<String> columns, String file) {

    private static final ObjectMapper JSON = new ObjectMapper();

    public String json() {
        try {
            return JSON.writeValueAsString(this);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    static Job of(String json) throws JsonProcessingException {
        return JSON.readValue(json, Job.class);
    }
}
