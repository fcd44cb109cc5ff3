package dachshund.engine.formula;

import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.FormulaTag;
import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagInfo;
import dachshund.engine.tag.TagTable;
import java.util.List;

/** Tags computed from others as these change. */
public final class FormulaKind implements LinkKind {

    private final FormulaNet net;

    public FormulaKind(TagTable table) {
        this.net = new FormulaNet(table);
        table.settledBy(net);
    }

    @Override
    public String id() {
        return FormulaTag.LINK;
    }

    @Override
    public String title() {
        return "Formula tags";
    }

    @Override
    public String purpose() {
        return "Values computed from other tags: sums, rates, conditions, means over a window, conversions. Quality follows from the inputs.";
    }

    @Override
    public List<SettingField> settings() {
        return List.of();
    }

    @Override
    public List<SettingField> tagFields() {
        return List.of(
                SettingField.text(FormulaTag.FORMULA, "Formula", "output / power * 1000", "")
                        .checked(SettingField.needed("A formula is needed, such as a + b.")),
                SettingField.text(FormulaTag.INPUTS, "Inputs", "output=source address", "")
                        .lines());
    }

    @Override
    public boolean browses() {
        return false;
    }

    @Override
    public boolean outside() {
        return false;
    }

    @Override
    public String tagProblem(TagInfo tag) {
        try {
            FormulaTag.of(tag).formula();
            return "";
        } catch (IllegalArgumentException problem) {
            return problem.getMessage();
        } catch (FormulaProblem problem) {
            return problem.getMessage() + " (from character " + (problem.from() + 1) + ")";
        }
    }

    @Override
    public PlantLink open(Opening opening) {
        return new FormulaLink(opening.source(), opening.rate(), opening.clock(), net);
    }
}
