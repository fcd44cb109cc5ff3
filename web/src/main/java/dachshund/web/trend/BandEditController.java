package dachshund.web.trend;

import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Drafts;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Bands of a trend as they are made. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/trends/{id}/bands")
class BandEditController {

    private final Drafts drafts;
    private final TrendEdits edits;
    private final CurveFields fields;
    private final BandEdits bands;

    BandEditController(Drafts drafts, TrendEdits edits, CurveFields fields, BandEdits bands) {
        this.drafts = drafts;
        this.edits = edits;
        this.fields = fields;
        this.bands = bands;
    }

    @PostMapping("/shifts")
    String shiftBand(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, BandEdits::withShifts);
    }

    @PostMapping("/tag")
    String tagBand(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam String key,
            @RequestParam(defaultValue = "") String called,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> bands.withTagBand(trend, key, called));
    }

    @PostMapping("/query")
    String queryBand(
            @PathVariable String id,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String query,
            @RequestParam(defaultValue = "") String begins,
            @RequestParam(defaultValue = "") String ends,
            @RequestParam(defaultValue = "") String names,
            @RequestParam(defaultValue = "") String called,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(
                id, seen, window, by, flash, trend -> bands.withQueryBand(trend, query, begins, ends, names, called));
    }

    @PostMapping("/{band}/remove")
    String withoutBand(
            @PathVariable String id,
            @PathVariable String band,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> BandEdits.withoutBand(trend, band));
    }

    @PostMapping("/{band}/behind")
    String behind(
            @PathVariable String id,
            @PathVariable String band,
            @RequestParam int seen,
            @RequestParam(defaultValue = "") String window,
            Principal by,
            RedirectAttributes flash) {
        return edits.edited(id, seen, window, by, flash, trend -> BandEdits.behind(trend, band));
    }

    /** Fields of a band from a saved query, as far as they are chosen. */
    @Needs(Right.DESIGN)
    @GetMapping("/query")
    String bandFields(@PathVariable String id, @RequestParam(defaultValue = "") String query, Model model) {
        TrendDefinition trend = edits.trend(id);
        edits.show(trend, model);
        model.addAttribute("trend", trend);
        model.addAttribute("seen", drafts.revision(id));
        fields.query(query, model);
        return "trend/bands :: query";
    }
}
