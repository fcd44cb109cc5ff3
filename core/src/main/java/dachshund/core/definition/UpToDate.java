package dachshund.core.definition;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;

/** Brings older documents up to date, one step a version. */
public final class UpToDate {

    private UpToDate() {}

    /** Schema 1 had one shape, columns without treatment, rates aligned to the clock, and inserts. */
    public static void recorderFrom1(ObjectNode recorder) {
        recorder.put("equipment", "");
        recorder.path("whens").forEach(when -> ((ObjectNode) when).put("fromStart", false));
        for (JsonNode where : recorder.path("wheres")) {
            ((ObjectNode) where).put("standbyFor", "").putObject("mode").put("is", "insert");
        }
        if (recorder.path("layout") instanceof ObjectNode layout) {
            layout.put("shape", "COLUMN_PER_TAG").put("changedLinesOnly", true);
            for (JsonNode column : layout.path("columns")) {
                ObjectNode treatment = ((ObjectNode) column).putObject("treatment");
                treatment.put("factor", 1).put("offset", 0).putObject("words");
            }
        }
    }
}
