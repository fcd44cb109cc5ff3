package dachshund.web.trend;

import dachshund.core.trend.Band;
import dachshund.core.trend.Curve;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.web.design.Removal;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Trends as they are made: curves are added, shown otherwise, and taken out. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/trends")
class TrendEditController {

    private final Definitions definitions;
    private final Drafts drafts;
    private final Removal removal;
    private final TrendEdits edits;
    private final CurveFields fields;

    TrendEditController(Definitions definitions, Drafts drafts, Removal removal, TrendEdits edits, CurveFields fields) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.removal = removal;
        this.edits = edits;
        this.fields = fields;
    }

    /**
     * @param key a tag that it begins with; empty for none
     * @param tags several of them, as they are ticked in their list
     */
    @PostMapping("/new")
    String fresh(
            @RequestParam(defaultValue = "") String key,
            @RequestParam(name = "tag", required = false) List<String> tags,
            @RequestParam(defaultValue = "last 24 h") String window,
            Principal by,
            RedirectAttributes flash) {
        List<String> keys = tags != null ? tags : key.isEmpty() ? List.of() : List.of(key);
        String id = Definitions.newId();
        TrendDefinition made = new TrendDefinition(id, "Trend", "", window, List.of(Band.shifts("1")), List.of());
        try {
            for (String each : keys) {
                made = edits.withTag(made, each);
            }
        } catch (IllegalArgumentException refused) {
            flash.addFlashAttribute("problem", refused.getMessage());
            return "redirect:/plant";
        }
        String name = keys.isEmpty() ? "Trend" : made.curves().get(0).name() + (keys.size() > 1 ? " and others" : "");
        drafts.edit(made.named(definitions.freeName(TrendDefinition.class, id, name), "", window), 0, by.getName());
        return "redirect:" + TrendEdits.PAGE + "/" + id;
    }

    /** What a saved query gives, drawn. */
    @PostMapping("/new/of/{query}")
    String ofQuery(@PathVariable String query, Principal by, RedirectAttributes flash) {
        String id = Definitions.newId();
        try {
            drafts.edit(edits.ofQuery(id, query), 0, by.getName());
        } catch (IllegalArgumentException refused) {
            flash.addFlashAttribute("problem", refused.getMessage());
            return "redirect:/review/queries/" + query;
        }
        return "redirect:" + TrendEdits.PAGE + "/" + id;
    }

    /** Its name, what it is for, and the window that it opens with. */
    @PostMapping("/{id}")
    String heads(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam String name,
            @RequestParam(defaultValue = "") String description,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, "", by, flash, trend -> {
            String problem = definitions.nameProblem(TrendDefinition.class, id, name.strip());
            if (!problem.isEmpty() || name.isBlank()) {
                throw new IllegalArgumentException(problem.isEmpty() ? "Give it a name." : problem);
            }
            return trend.named(name.strip(), description.strip(), window.isBlank() ? trend.window() : window.strip());
        });
    }

    @PostMapping("/{id}/tag")
    String tag(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam String key,
            @RequestParam(defaultValue = "1") int plot,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> TrendEdits.newIn(edits.withTag(trend, key), plot));
    }

    @PostMapping("/{id}/pasted")
    String pasted(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String called,
            @RequestParam(defaultValue = "") String cells,
            @RequestParam(defaultValue = "") String order,
            @RequestParam(defaultValue = "1") int plot,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(
                id,
                seen,
                window,
                by,
                flash,
                trend -> TrendEdits.newIn(edits.withPasted(trend, called, cells, order), plot));
    }

    @PostMapping("/{id}/table")
    String table(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String table,
            @RequestParam(defaultValue = "") String time,
            @RequestParam(defaultValue = "STAMP") String form,
            @RequestParam(defaultValue = "") String value,
            @RequestParam(defaultValue = "") String where,
            @RequestParam(defaultValue = "") String named,
            @RequestParam(defaultValue = "1") int plot,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(
                id,
                seen,
                window,
                by,
                flash,
                trend -> TrendEdits.newIn(
                        edits.withTable(trend, database, CurveFields.table(table), time, form, value, where, named),
                        plot));
    }

    @PostMapping("/{id}/query")
    String query(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String query,
            @RequestParam(defaultValue = "") String time,
            @RequestParam(defaultValue = "") String value,
            @RequestParam(defaultValue = "1") int plot,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(
                id,
                seen,
                window,
                by,
                flash,
                trend -> TrendEdits.newIn(edits.withQuery(trend, query, time, value), plot));
    }

    @PostMapping("/{id}/curves/{curve}")
    String shown(
            @PathVariable String id,
            @PathVariable String curve,
            @RequestParam int seen,
            @RequestParam String called,
            @RequestParam(defaultValue = "") String unit,
            @RequestParam(defaultValue = "") String key,
            @RequestParam(defaultValue = "1") int plot,
            @RequestParam(defaultValue = "") String scale,
            @RequestParam(defaultValue = "") String low,
            @RequestParam(defaultValue = "") String high,
            @RequestParam(defaultValue = "") String back,
            @RequestParam(defaultValue = "false") boolean stepped,
            @RequestParam(defaultValue = "false") boolean marked,
            @RequestParam(defaultValue = "false") boolean hidden,
            @RequestParam(defaultValue = "0") int colour,
            @RequestParam(defaultValue = "false") boolean wide,
            @RequestParam(defaultValue = "") String decimals,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(
                id,
                seen,
                window,
                by,
                flash,
                trend -> trend.changed(curve, each -> {
                    Curve as = each.called(called.isBlank() ? each.name() : called.strip(), unit.strip())
                            .on(scale.strip())
                            .in(plot)
                            .drawn(stepped, marked, hidden)
                            .looking(new Curve.Look(colour, wide, TrendEdits.decimals(decimals)))
                            .between(TrendEdits.limit(low), TrendEdits.limit(high))
                            .earlier(TrendEdits.back(back));
                    return key.isEmpty() ? as : edits.of(as, key);
                }));
    }

    @PostMapping("/{id}/curves/{curve}/again")
    String again(
            @PathVariable String id,
            @PathVariable String curve,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> TrendEdits.again(trend, curve));
    }

    @PostMapping("/{id}/curves/{curve}/remove")
    String without(
            @PathVariable String id,
            @PathVariable String curve,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> trend.without(curve));
    }

    /** All curves of a plot once more, in another one. */
    @PostMapping("/{id}/plots/{plot}/again")
    String plotAgain(
            @PathVariable String id,
            @PathVariable int plot,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> TrendEdits.plotAgain(trend, plot));
    }

    @PostMapping("/{id}/plots/{plot}/remove")
    String withoutPlot(
            @PathVariable String id,
            @PathVariable int plot,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> TrendEdits.withoutPlot(trend, plot));
    }

    /** Fields of a curve from a table, as far as they are chosen. */
    @Needs(Right.DESIGN)
    @GetMapping("/{id}/table")
    String tableFields(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String table,
            @RequestParam(defaultValue = "1") int plot,
            Model model) {
        edits.show(edits.trend(id), model);
        model.addAttribute("addTo", plot);
        model.addAttribute("trend", edits.trend(id));
        model.addAttribute("seen", drafts.revision(id));
        fields.tables(database, table.replace("\r", ""), model);
        return "trend/add :: table";
    }

    /** What there is to type where a table has the rows of many things. */
    @Needs(Right.DESIGN)
    @GetMapping("/{id}/names")
    String names(
            @RequestParam(defaultValue = "") String database,
            @RequestParam(defaultValue = "") String table,
            @RequestParam(defaultValue = "") String where,
            Model model) {
        model.addAttribute(
                "found", where.isEmpty() ? List.of() : fields.names(database, CurveFields.table(table), where));
        return "trend/add :: names";
    }

    /** The same from a saved query. */
    @Needs(Right.DESIGN)
    @GetMapping("/{id}/query")
    String queryFields(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String query,
            @RequestParam(defaultValue = "1") int plot,
            Model model) {
        edits.show(edits.trend(id), model);
        model.addAttribute("addTo", plot);
        model.addAttribute("trend", edits.trend(id));
        model.addAttribute("seen", drafts.revision(id));
        fields.query(query, model);
        return "trend/add :: query";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        return removal.remove(id, "trend", TrendEdits.PAGE, by.getName(), flash);
    }
}
