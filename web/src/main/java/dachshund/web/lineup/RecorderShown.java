package dachshund.web.lineup;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Shape;
import dachshund.core.release.LayoutCheck;
import dachshund.core.row.Made;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.web.page.Shown;
import java.util.ArrayList;
import java.util.List;
import org.springframework.stereotype.Component;

/** The lines of a recorder: the row that each would write. */
@Component
class RecorderShown implements LineShown<RecorderDefinition> {

    private final Definitions definitions;
    private final Engine engine;
    private final Shown shown;

    RecorderShown(Definitions definitions, Engine engine, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.shown = shown;
    }

    @Override
    public Class<RecorderDefinition> type() {
        return RecorderDefinition.class;
    }

    @Override
    public String nowHeading() {
        return "The row it would write now";
    }

    @Override
    public String now(RecorderDefinition line, Plant plant) {
        List<Made> made = line.layout().shape() == Shape.ROW_PER_TAG
                        && line.layout().lines().isEmpty()
                ? List.of()
                : engine.preview(line, plant);
        if (made.isEmpty()) {
            return "";
        }
        if (made.get(0) instanceof Made.Whole whole) {
            List<String> cells = new ArrayList<>();
            for (int i = 0; i < whole.row().cells().length; i++) {
                if (!line.layout().written().get(i).isRowId()) {
                    cells.add(shown.cell(whole.row().cells()[i]));
                }
            }
            return String.join("  ", cells);
        }
        return made.get(0) instanceof Made.Refused refused
                ? "set aside: " + refused.reason()
                : "not written: " + ((Made.Skipped) made.get(0)).reason();
    }

    @Override
    public List<String> problems(RecorderDefinition line, Plant plant) {
        Dialect dialect = line.wheres().stream()
                .findFirst()
                .flatMap(where -> definitions.destination(where.destination()))
                .map(destination -> engine.storeKind(destination.store()).dialect())
                .orElse(new StandardDialect());
        return LayoutCheck.remarks(line.layout(), dialect, definitions::tag, plant, line.equipment()).stream()
                .filter(LayoutCheck.Remark::blocking)
                .map(LayoutCheck.Remark::sentence)
                .toList();
    }
}
