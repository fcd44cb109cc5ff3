package dachshund.web.database;

import dachshund.core.definition.Definition;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.engine.Engine;
import dachshund.web.design.OwnColumns;
import java.util.List;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Read-only databases in their list. */
@Component
class DatabaseColumns implements OwnColumns {

    private final Engine engine;

    DatabaseColumns(Engine engine) {
        this.engine = engine;
    }

    @Override
    public String kind() {
        return "DATABASE";
    }

    @Override
    public String page() {
        return "/review/databases";
    }

    @Override
    public List<Head> heads() {
        return List.of(new Head("Kind", false), new Head("Place", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((DatabaseDefinition) thing);
    }

    private List<Cell> cells(DatabaseDefinition database) {
        return List.of(Cell.of(engine.storeKind(database.store()).title()), Cell.mono(engine.place(database)));
    }

    @Override
    public String more() {
        return "database/databases";
    }
}
