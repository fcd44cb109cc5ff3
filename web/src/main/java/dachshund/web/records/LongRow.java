package dachshund.web.records;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.release.LayoutCheck;
import dachshund.core.release.LayoutCheck.Remark;
import dachshund.core.row.Made;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagInfo;
import dachshund.engine.Engine;
import dachshund.web.definition.Definitions;
import dachshund.web.page.Shown;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** The long row of a recorder as the page shows it: a cell per column, and what it would write now. */
@Component
class LongRow {

    private final Definitions definitions;
    private final Engine engine;
    private final Shown shown;

    /**
     * @param type     in standard words
     * @param source   where the value comes from, short
     * @param full     the same in full, for the hover
     * @param numeric  whether values stand right-aligned
     * @param blocking remarks that must be mended
     * @param advice   remarks that need not
     */
    public record Cell(int index, String name, String type, String source, String full, boolean numeric, List<String> blocking, List<String> advice) {
    }

    /**
     * The row it would write now.
     *
     * @param reason why no row would be written; empty where one would
     */
    public record Now(List<String> values, String reason) {
    }

    LongRow(Definitions definitions, Engine engine, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.shown = shown;
    }

    List<Remark> remarks(RecorderDefinition recorder, Dialect dialect) {
        return LayoutCheck.remarks(recorder.layout(), dialect, definitions::tag);
    }

    List<Cell> cells(RecorderDefinition recorder, List<Remark> remarks) {
        List<Cell> cells = new ArrayList<>();
        List<Column> columns = recorder.layout().columns();
        for (int i = 0; i < columns.size(); i++) {
            Column column = columns.get(i);
            int index = i;
            cells.add(new Cell(i, column.name(), column.type().words(), source(column, false), source(column, true), column.type().numeric(),
                    remarks.stream().filter(remark -> remark.column() == index && remark.blocking()).map(Remark::sentence).toList(),
                    remarks.stream().filter(remark -> remark.column() == index && !remark.blocking()).map(Remark::sentence).toList()));
        }
        return cells;
    }

    String source(Column column, boolean full) {
        ColumnSource from = column.from();
        if (from instanceof ColumnSource.FromTag tag) {
            Optional<TagInfo> info = definitions.tag(tag.tag());
            String name = info.map(known -> full ? known.fullName() + unit(known) : known.name() + unit(known)).orElse("unknown tag");
            return switch (tag.aspect()) {
                case VALUE -> name;
                case QUALITY -> "quality of " + name;
                case SOURCE_TIME -> "source time of " + name;
            };
        }
        if (from instanceof ColumnSource.Constant constant) {
            return "constant \"" + constant.text() + "\"";
        }
        return from instanceof ColumnSource.FromRun run ? run.variable().words() : "numbered by the database";
    }

    private static String unit(TagInfo tag) {
        return tag.unit().isEmpty() ? "" : " [" + tag.unit() + "]";
    }

    Now now(RecorderDefinition recorder) {
        Made made = engine.preview(recorder);
        List<String> values = new ArrayList<>();
        int written = 0;
        for (Column column : recorder.layout().columns()) {
            if (column.isAutoNumber()) {
                values.add("next");
            } else if (made instanceof Made.Whole whole) {
                values.add(column.isRowId() ? "…" : shown.cell(whole.row().cells()[written++]));
                written += column.isRowId() ? 1 : 0;
            } else if (made instanceof Made.Refused refused) {
                values.add(column.isRowId() ? "…" : refused.values().get(written));
                written++;
            } else {
                values.add("");
            }
        }
        String reason = "";
        if (made instanceof Made.Refused refused) {
            reason = "This row would be set aside. " + refused.reason();
        } else if (made instanceof Made.Skipped skipped) {
            reason = "No row would be written now: " + skipped.reason() + ".";
        }
        return new Now(values, reason);
    }

}
