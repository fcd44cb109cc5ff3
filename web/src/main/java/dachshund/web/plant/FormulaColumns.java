package dachshund.web.plant;

import dachshund.core.definition.Definition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.office.design.ListedFormula;
import dachshund.web.design.OwnColumns;
import dachshund.web.page.Shown;
import java.util.List;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Formula tags in their list. */
@Component
class FormulaColumns implements OwnColumns {

    private final Engine engine;
    private final Shown shown;

    FormulaColumns(Engine engine, Shown shown) {
        this.engine = engine;
        this.shown = shown;
    }

    @Override
    public String kind() {
        return ListedFormula.KIND.id();
    }

    @Override
    public String page() {
        return "/plant/formulas";
    }

    @Override
    public List<Head> heads() {
        return List.of(
                new Head("Value", true),
                new Head("Unit", false),
                new Head("Formula", false),
                new Head("Source", false));
    }

    @Override
    public Function<Definition, List<Cell>> cells() {
        return thing -> cells((ListedFormula) thing);
    }

    private List<Cell> cells(ListedFormula formula) {
        TagValue value = engine.tags().entry(formula.ref()).value();
        String text = formula.tag().how().getOrDefault(FormulaTag.FORMULA, "");
        return List.of(
                Cell.number(value.value().isPresent() ? shown.value(value, formula.tag()) : ""),
                Cell.quiet(formula.tag().unit()),
                new Cell(text, "mono clip", text),
                Cell.of(formula.source().name()));
    }
}
