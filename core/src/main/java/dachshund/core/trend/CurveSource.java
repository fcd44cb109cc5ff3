package dachshund.core.trend;

import dachshund.core.reader.TimeColumn.Form;
import dachshund.core.tag.TagRef;
import java.util.Map;

/** Where a curve has its times and values from. */
public sealed interface CurveSource {

    /** By their names in documents. */
    Map<String, Class<?>> DOCUMENTS =
            Map.of("tag", OfTag.class, "table", OfTable.class, "query", OfQuery.class, "pasted", Pasted.class);

    /** The history of a tag, in the archive. */
    record OfTag(TagRef tag) implements CurveSource {}

    /**
     * Two columns of a table or view.
     *
     * @param database id of a read-only database or of a destination that is one
     * @param where    where many things have their rows in one table, the column that names them; empty where not
     * @param named    the thing that is meant
     */
    record OfTable(
            String database,
            String schema,
            String table,
            String time,
            Form form,
            String value,
            String where,
            String named)
            implements CurveSource {}

    /** Two columns of what a saved query gives, asked as it starts. */
    record OfQuery(String query, String time, String value) implements CurveSource {}

    /** Cells that somebody pasted: see {@link PastedCells}. */
    record Pasted(String cells, String order) implements CurveSource {}
}
