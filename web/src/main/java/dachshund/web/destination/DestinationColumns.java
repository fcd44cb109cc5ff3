package dachshund.web.destination;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.destination.StoreKind;
import dachshund.engine.Engine;
import dachshund.web.design.OwnColumns;
import dachshund.web.page.Shown;
import java.util.List;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Destinations in their list. */
@Component
class DestinationColumns implements OwnColumns {

    private final Engine engine;
    private final Places places;
    private final Shown shown;

    DestinationColumns(Engine engine, Places places, Shown shown) {
        this.engine = engine;
        this.places = places;
        this.shown = shown;
    }

    @Override
    public String kind() {
        return "DESTINATION";
    }

    @Override
    public String page() {
        return "/records/destinations";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("Store", false),
                new Head("Place", false),
                new Head("User", false),
                new Head("Held rows", true));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((DestinationDefinition) thing);
    }

    private List<Cell> cells(DestinationDefinition destination) {
        StoreKind kind = engine.storeKind(destination.store());
        return List.of(
                Cell.of(kind.title() + (kind.statementsOnly() ? " (generated, never executed)" : "")),
                Cell.mono(places.of(destination)),
                Cell.mono(destination.settings().getOrDefault("user", "")),
                Cell.number(shown.count(engine.held(destination.id()))));
    }

    @Override
    public String more() {
        return "destination/destinations";
    }
}
