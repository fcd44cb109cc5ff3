package dachshund.web.plant;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.source.SourceRun;
import dachshund.web.design.OwnColumns;
import dachshund.web.page.Shown;
import java.util.List;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Sources in their list. */
@Component
class SourceColumns implements OwnColumns {

    private final Engine engine;
    private final Shown shown;

    SourceColumns(Engine engine, Shown shown) {
        this.engine = engine;
        this.shown = shown;
    }

    @Override
    public String kind() {
        return "SOURCE";
    }

    @Override
    public String page() {
        return "/plant/sources";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("Link", false),
                new Head("Asked every", false),
                new Head("Tags", true),
                new Head("Live", true));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((SourceDefinition) thing);
    }

    private List<Cell> cells(SourceDefinition source) {
        return List.of(
                Cell.of(engine.sources().kind(source.link()).title()),
                Cell.mono(PeriodText.write(source.rate())),
                Cell.number(shown.count(source.tags().size())),
                Cell.number(engine.sources()
                        .find(source.id())
                        .map(SourceRun::liveTags)
                        .map(shown::count)
                        .orElse("")));
    }
}
