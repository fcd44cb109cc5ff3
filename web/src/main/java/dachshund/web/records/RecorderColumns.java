package dachshund.web.records;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Place;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.office.definition.Definitions;
import dachshund.web.design.OwnColumns;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import java.util.List;
import java.util.Map;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/** Recorders in their list. */
@Component
class RecorderColumns implements OwnColumns {

    private final Definitions definitions;
    private final Engine engine;
    private final Times times;
    private final Shown shown;

    RecorderColumns(Definitions definitions, Engine engine, Times times, Shown shown) {
        this.definitions = definitions;
        this.engine = engine;
        this.times = times;
        this.shown = shown;
    }

    @Override
    public String kind() {
        return "RECORDER";
    }

    @Override
    public String page() {
        return "/records";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("When", false),
                new Head("Where", false),
                new Head("Columns", true),
                new Head("Held", true),
                new Head("Set aside", true),
                new Head("Last row", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        Map<String, RecorderStatus> status = engine.status();
        return thing -> cells((RecorderDefinition) thing, status.get(thing.id()));
    }

    /** @param status null for what is not released */
    private List<Cell> cells(RecorderDefinition recorder, RecorderStatus status) {
        String whens = recorder.whens().stream().map(When::sentence).collect(Collectors.joining("; "))
                + recorder.gate().map(gate -> ", while " + gate.text()).orElse("");
        String wheres = recorder.wheres().stream()
                .map(where -> new Place(where.database(), where.table()).words() + " in "
                        + definitions
                                .destination(where.destination())
                                .map(DestinationDefinition::name)
                                .orElse("?"))
                .collect(Collectors.joining(", "));
        boolean known = status != null && times.known(status.lastRow());
        return List.of(
                Cell.of(whens),
                wheres.isEmpty() ? Cell.quiet("nowhere yet") : Cell.mono(wheres),
                Cell.number(String.valueOf(recorder.layout().columns().size())),
                Cell.number(status == null ? "" : shown.count(status.held())),
                Cell.number(status == null ? "" : shown.count(status.setAside())),
                known ? Cell.mono(times.clock(status.lastRow())).titled(times.utc(status.lastRow())) : Cell.of(""));
    }
}
