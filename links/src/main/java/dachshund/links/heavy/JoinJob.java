package dachshund.links.heavy;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.util.List;

/**
 * Work for the second process: one SQL over tables whose rows it is given, and the rows that come of it.
 *
 * @param folder for what does not fit into memory
 * @param zone   of times that say none
 * @param sql    of DuckDB, with question marks for values
 * @param most   no more rows than these
 */
public record JoinJob(String folder, String zone, String sql, long most) {

    private static final ObjectMapper JSON = new ObjectMapper();

    /** A table, whose rows follow. */
    public record Table(String name, List<Column> columns) {
        public String json() {
            return JoinJob.json(this);
        }

        static Table of(String json) throws JsonProcessingException {
            return JSON.readValue(json, Table.class);
        }
    }

    /** @param usual its type where no cell of it is there, in DuckDB's words */
    public record Column(String name, String usual) {}

    public String json() {
        return json(this);
    }

    static JoinJob of(String json) throws JsonProcessingException {
        return JSON.readValue(json, JoinJob.class);
    }

    static String json(Object any) {
        try {
            return JSON.writeValueAsString(any);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    /** The columns of what came of it; {@code usual} is what DuckDB calls their types. */
    public static List<Column> columns(String json) throws JsonProcessingException {
        return List.of(JSON.readValue(json, Column[].class));
    }
}
