package dachshund.web.trend;

import dachshund.core.reader.TableShape;
import dachshund.core.tag.TagValue;
import dachshund.core.trend.Band;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.Standing;
import dachshund.office.export.Exports;
import dachshund.office.export.FileFormat;
import dachshund.office.export.TableOut;
import dachshund.office.filing.LatelyUsed;
import dachshund.office.trend.Bands;
import dachshund.office.trend.Trends;
import dachshund.office.trend.Trends.Undrawn;
import dachshund.office.window.Windows;
import dachshund.web.design.DesignLists;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.people.RightsHeld;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.security.Principal;
import java.time.Instant;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** Trends as they are looked at: the page, what its curves look like, what is new. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/trends")
class TrendController {

    private static final int MOST_POINTS = 4000;
    private static final int LEAST_POINTS = 10;

    private static final List<TableShape.Column> FILE = List.of(
            new TableShape.Column("curve", "text", TableShape.Sort.TEXT, false),
            new TableShape.Column("unit", "text", TableShape.Sort.TEXT, false),
            new TableShape.Column("time", "time", TableShape.Sort.STAMP, false),
            new TableShape.Column("value", "number", TableShape.Sort.NUMBER, true));

    private static final String NO_WINDOW = "A trend goes from a time after 1970 to a later one.";
    private static final Instant LAST = Instant.parse("9999-01-01T00:00:00Z");

    private final Definitions definitions;
    private final Drafts drafts;
    private final Trends trends;
    private final Bands bands;
    private final Windows windows;
    private final Engine engine;
    private final TrendEdits edits;
    private final DesignLists lists;
    private final Exports exports;
    private final Audit audit;
    private final LatelyUsed lately;

    TrendController(
            Definitions definitions,
            Drafts drafts,
            Trends trends,
            Bands bands,
            Windows windows,
            Engine engine,
            TrendEdits edits,
            DesignLists lists,
            Exports exports,
            Audit audit,
            LatelyUsed lately) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.trends = trends;
        this.bands = bands;
        this.windows = windows;
        this.engine = engine;
        this.edits = edits;
        this.lists = lists;
        this.exports = exports;
        this.audit = audit;
        this.lately = lately;
    }

    @GetMapping
    String list(DesignLists.Asked asked, Model model) {
        lists.show(asked.query("TREND"), model);
        return "trend/trends";
    }

    /** As whoever designs has it; as it is released for others. */
    private TrendDefinition trend(String id) {
        return definitions
                .find(RightsHeld.standing(), TrendDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This trend is not there any more."));
    }

    @GetMapping("/{id}")
    String page(@PathVariable String id, @RequestParam(defaultValue = "") String window, Principal by, Model model) {
        TrendDefinition trend = trend(id);
        lately.opened(by.getName(), id);
        String words = window.isBlank() ? trend.window() : window.strip();
        model.addAttribute("trend", trend);
        model.addAttribute("window", words);
        try {
            Span span = windows.span(words);
            model.addAttribute("span", span);
        } catch (WindowProblem problem) {
            model.addAttribute("windowProblem", problem.getMessage());
        }
        model.addAttribute("formats", FileFormat.values());
        model.addAttribute("clock", windows.here().now().toEpochMilli());
        model.addAttribute("seen", drafts.revision(id));
        edits.show(trend, model);
        return "trend/trend";
    }

    /**
     * What its curves look like over a time and what went on in it, a line of JSON for each, as soon as it is there. Those that the
     * archive knows come first, and wait for no database.
     *
     * @param begin milliseconds since 1970
     * @param end   the same, exclusive
     * @param only  "curves" or "bands", where the others are not wanted
     */
    @GetMapping("/{id}/drawn")
    void drawn(
            @PathVariable String id,
            @RequestParam long begin,
            @RequestParam long end,
            @RequestParam(defaultValue = "1000") int points,
            @RequestParam(defaultValue = "") String only,
            HttpServletResponse response)
            throws IOException {
        TrendDefinition trend = trend(id);
        response.setContentType(FileFormat.JSON_LINES.mediaType());
        List<Curve> curves = only.equals("bands") ? List.of() : trend.curves();
        List<Band> named = only.equals("curves") ? List.of() : trend.bands();
        int across = Math.min(MOST_POINTS, Math.max(LEAST_POINTS, points));
        boolean isWindow = begin >= 0 && begin < end && end <= LAST.toEpochMilli();
        Instant from = Instant.ofEpochMilli(isWindow ? begin : 0);
        try (DrawnLines lines = new DrawnLines(response.getOutputStream(), from)) {
            Asked asked = new Asked(isWindow, from, Instant.ofEpochMilli(end), across, RightsHeld.standing(), lines);
            for (Curve curve : curves) {
                if (curve.from() instanceof CurveSource.OfTag) {
                    draw(curve, asked);
                }
            }
            for (Band band : named) {
                draw(band, asked);
            }
            for (Curve curve : curves) {
                if (!(curve.from() instanceof CurveSource.OfTag)) {
                    draw(curve, asked);
                }
            }
        }
    }

    private record Asked(boolean isWindow, Instant from, Instant to, int points, Standing standing, DrawnLines lines) {}

    private void draw(Curve curve, Asked asked) throws IOException {
        if (!asked.isWindow()) {
            asked.lines().noCurve(curve, NO_WINDOW);
            return;
        }
        Trends.Drawn drawn;
        try {
            drawn = trends.drawn(curve, asked.from(), asked.to(), asked.points(), asked.standing());
        } catch (Undrawn why) {
            asked.lines().noCurve(curve, why.getMessage());
            return;
        }
        asked.lines().curve(curve, drawn);
    }

    private void draw(Band band, Asked asked) throws IOException {
        if (!asked.isWindow()) {
            asked.lines().noBand(band, NO_WINDOW);
            return;
        }
        Bands.Drawn drawn;
        try {
            drawn = bands.of(band, asked.from(), asked.to(), asked.standing());
        } catch (Undrawn why) {
            asked.lines().noBand(band, why.getMessage());
            return;
        }
        asked.lines().band(band, drawn);
    }

    /** What is the matter with a curve's value at a time, in words. */
    @GetMapping("/{id}/curves/{curve}/words")
    @ResponseBody
    Map<String, String> words(@PathVariable String id, @PathVariable String curve, @RequestParam long at) {
        Instant then = Instant.ofEpochMilli(Math.max(0, Math.min(at, LAST.toEpochMilli())));
        try {
            return Map.of("words", trends.words(curve(id, curve), then));
        } catch (Undrawn why) {
            return Map.of("words", why.getMessage());
        }
    }

    private Curve curve(String id, String curve) {
        return trend(id)
                .curve(curve)
                .orElseThrow(() -> new IllegalArgumentException("This curve is not there any more."));
    }

    /** Every value of its curves, one curve after the other, as a file. */
    @GetMapping("/{id}/values.{ending}")
    void file(
            @PathVariable String id,
            @PathVariable String ending,
            @RequestParam long begin,
            @RequestParam long end,
            Principal by,
            HttpServletResponse response)
            throws IOException, Undrawn {
        TrendDefinition trend = trend(id);
        FileFormat format = FileFormat.of(ending)
                .orElseThrow(() -> new IllegalArgumentException("There is no format " + ending + "."));
        audit.note(by.getName(), "took a file of a trend", trend.name() + " as " + format.words());
        response.setContentType(format.mediaType());
        response.setHeader(
                "Content-Disposition",
                "attachment; filename=\"" + trend.name().replaceAll("[^A-Za-z0-9._-]", "_") + "." + ending + "\"");
        Standing standing = RightsHeld.standing();
        try (TableOut out = exports.open(format, response.getOutputStream())) {
            out.columns(FILE);
            for (Curve curve : trend.curves()) {
                trends.values(
                        curve,
                        Instant.ofEpochMilli(begin),
                        Instant.ofEpochMilli(end),
                        standing,
                        (at, value) -> out.row(Arrays.asList(curve.name(), curve.unit(), at, value)));
            }
            out.finish();
        }
    }

    /** What the tags of its curves are now: seconds since 1970 and value by curve; nothing of those that have none. */
    @GetMapping("/{id}/now")
    @ResponseBody
    Map<String, double[]> now(@PathVariable String id) {
        Map<String, double[]> values = new HashMap<>();
        for (Curve curve : trend(id).curves()) {
            if (curve.from() instanceof CurveSource.OfTag of && curve.back().isZero()) {
                TagValue value = engine.tags().entry(of.tag()).value();
                if (!value.quality().isBad() && value.value().orElse(null) instanceof Number number) {
                    values.put(
                            curve.id(),
                            new double[] {value.sourceTime().toEpochMilli() / 1000.0, number.doubleValue()});
                }
            }
        }
        return values;
    }
}
