package dachshund.web.row;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Shape;
import dachshund.core.release.LayoutCheck;
import dachshund.core.release.LayoutCheck.Remark;
import dachshund.core.row.Made;
import dachshund.core.sql.Dialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.web.rehearsal.Rehearsing;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** The long row of a recorder as the page shows it: a cell per column, and what it would write now. */
@Component
public class LongRow {

    private static final int MOST_NOW = 4;

    private final Definitions definitions;
    private final Engine engine;
    private final Rehearsing rehearsing;

    /**
     * @param place    index of the column, or of a field within its document: 3 or 3.2
     * @param type     in standard words
     * @param source   where the value comes from, short
     * @param full     the same in full, for the hover
     * @param numeric  whether values stand right-aligned
     * @param key      whether it is part of the key
     * @param blocking remarks that must be mended
     * @param advice   remarks that need not
     */
    public record Cell(
            String place,
            int index,
            String name,
            String type,
            String source,
            String full,
            boolean numeric,
            boolean key,
            List<String> blocking,
            List<String> advice) {}

    public LongRow(Definitions definitions, Engine engine, Rehearsing rehearsing) {
        this.definitions = definitions;
        this.engine = engine;
        this.rehearsing = rehearsing;
    }

    public List<Remark> remarks(RecorderDefinition recorder, Dialect dialect, Plant plant) {
        return LayoutCheck.remarks(recorder.layout(), dialect, definitions::tag, plant, recorder.equipment());
    }

    public List<Cell> cells(RecorderDefinition recorder, List<Remark> remarks) {
        List<Cell> cells = new ArrayList<>();
        Layout layout = recorder.layout();
        for (int i = 0; i < layout.columns().size(); i++) {
            Column column = layout.columns().get(i);
            int index = i;
            cells.add(new Cell(
                    Integer.toString(i),
                    i,
                    column.name(),
                    column.type().words(),
                    source(column, false),
                    source(column, true),
                    column.type().numeric(),
                    layout.isKey(column.name()),
                    remarks.stream()
                            .filter(remark -> remark.column() == index && remark.blocking())
                            .map(Remark::sentence)
                            .toList(),
                    remarks.stream()
                            .filter(remark -> remark.column() == index && !remark.blocking())
                            .map(Remark::sentence)
                            .toList()));
        }
        return cells;
    }

    /** The fields of the document, in a layout of that shape. */
    public List<Cell> fields(RecorderDefinition recorder) {
        List<Cell> cells = new ArrayList<>();
        List<Column> columns = recorder.layout().columns();
        for (int i = 0; i < columns.size(); i++) {
            List<Column> within = columns.get(i).from().within();
            for (int f = 0; f < within.size(); f++) {
                Column field = within.get(f);
                cells.add(new Cell(
                        i + "." + f,
                        f,
                        field.name(),
                        field.type().words(),
                        source(field, false),
                        source(field, true),
                        field.type().numeric(),
                        false,
                        List.of(),
                        List.of()));
            }
        }
        return cells;
    }

    public String source(Column column, boolean full) {
        String from = column.from().shown(names(full));
        String treatment = column.treatment().sentence();
        return treatment.isEmpty() ? from : from + (full ? ", " + treatment : " *");
    }

    private ColumnSource.Names names(boolean full) {
        return new ColumnSource.Names() {
            @Override
            public String tag(TagRef tag) {
                return name(tag, full);
            }

            @Override
            public String whose(String equipment) {
                return equipment.isEmpty()
                        ? full ? " of its equipment" : ""
                        : " of "
                                + definitions
                                        .find(EquipmentDefinition.class, equipment)
                                        .map(EquipmentDefinition::name)
                                        .orElse("equipment that is gone");
            }
        };
    }

    private String name(TagRef tag, boolean full) {
        Optional<TagInfo> info = definitions.tag(tag);
        return info.map(known -> (full ? known.fullName() : known.name())
                        + (known.unit().isEmpty() ? "" : " [" + known.unit() + "]"))
                .orElse("unknown tag");
    }

    /** What would be written now: one row, or the first lines of a layout with a row per tag. */
    public List<Rehearsing.Line> nows(RecorderDefinition recorder, Plant plant) {
        boolean empty = recorder.layout().shape() == Shape.ROW_PER_TAG
                && recorder.layout().lines().isEmpty();
        List<Made> made = empty ? List.of() : engine.preview(recorder, plant);
        return made.stream()
                .limit(MOST_NOW)
                .map(each -> rehearsing.line(recorder, each))
                .map(line -> new Rehearsing.Line(line.values(), reason(line.reason())))
                .toList();
    }

    private static String reason(String reason) {
        return reason.startsWith("set aside: ")
                ? "This row would be set aside. " + reason.substring(11)
                : reason.startsWith("not written: ") ? "No row would be written now: " + reason.substring(13) : "";
    }
}
