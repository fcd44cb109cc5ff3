package dachshund.web.plant;

import dachshund.web.tag.TagFinder;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.engine.source.SourceRun;
import dachshund.web.definition.Definitions;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import dachshund.web.tag.TagFinder.FoundTag;
import dachshund.web.records.NewRecorder;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The Plant workspace: sources, and the tags they have with their live values. */
@Controller
class PlantController {

    private static final int PAGE = 200;
    private static final Duration PLOT = Duration.ofMinutes(5);
    private static final int PLOT_POINTS = 75;

    private final Definitions definitions;
    private final Engine engine;
    private final TagFinder finder;
    private final Times times;
    private final Shown shown;
    private final NewRecorder newRecorder;

    /** A source with how it runs; no run where it could not be opened. */
    public record SourceLine(SourceDefinition source, Optional<SourceRun.Status> status, long live, boolean drafted) {
    }

    /**
     * What changes on a line of the tag list.
     *
     * @param quality good, uncertain or bad
     * @param plot    pairs of seconds before now and value; a break is an absent value
     */
    public record LiveValue(String key, String value, String quality, String sentence, String age, String sourceTime, List<Double[]> plot) {
    }

    PlantController(Definitions definitions, Engine engine, TagFinder finder, Times times, Shown shown, NewRecorder newRecorder) {
        this.definitions = definitions;
        this.engine = engine;
        this.finder = finder;
        this.times = times;
        this.shown = shown;
        this.newRecorder = newRecorder;
    }

    @GetMapping("/plant")
    String plant(@RequestParam(defaultValue = "") String source, @RequestParam(defaultValue = "") String q,
                 @RequestParam(defaultValue = "1") int page, Model model) {
        List<FoundTag> found = finder.find(source, q);
        int pages = Math.max(1, (found.size() + PAGE - 1) / PAGE);
        int shownPage = Math.min(Math.max(1, page), pages);
        model.addAttribute("sources", sources());
        model.addAttribute("chosen", source);
        model.addAttribute("q", q);
        model.addAttribute("page", shownPage);
        model.addAttribute("pages", pages);
        model.addAttribute("total", found.size());
        model.addAttribute("tags", slice(found, shownPage));
        return "plant/plant";
    }

    private static List<FoundTag> slice(List<FoundTag> found, int page) {
        return found.subList(Math.min(found.size(), (page - 1) * PAGE), Math.min(found.size(), page * PAGE));
    }

    private List<SourceLine> sources() {
        return definitions.all(SourceDefinition.class).stream().map(source -> {
            Optional<SourceRun> run = engine.sources().find(source.id());
            return new SourceLine(source, run.map(SourceRun::status), run.map(SourceRun::liveTags).orElse(0L), definitions.draft(source.id()).isPresent());
        }).toList();
    }

    @GetMapping("/plant/sources-state")
    String sourcesState(@RequestParam(defaultValue = "") String source, Model model) {
        model.addAttribute("sources", sources());
        model.addAttribute("chosen", source);
        return "plant/plant :: sources";
    }

    @GetMapping("/plant/values")
    @ResponseBody
    List<LiveValue> values(@RequestParam(defaultValue = "") String source, @RequestParam(defaultValue = "") String q,
                           @RequestParam(defaultValue = "1") int page) {
        Instant now = engine.clock().now();
        return slice(finder.find(source, q), Math.max(1, page)).stream().map(tag -> live(tag, now)).toList();
    }

    private LiveValue live(FoundTag tag, Instant now) {
        var entry = engine.tags().entry(tag.ref());
        TagValue value = entry.value();
        List<Double[]> plot = tag.info().kind().numeric() ? plot(entry.recent().since(now.minus(PLOT)), now) : List.of();
        return new LiveValue(tag.key(), shown.value(value), value.quality().grade().name().toLowerCase(Locale.ROOT), value.quality().sentence(),
                value.arrived() ? times.age(value.quality().isBad() ? value.receiveTime() : value.sourceTime()) : "",
                value.arrived() ? times.fine(value.sourceTime()) + " · " + times.utc(value.sourceTime()) : "", plot);
    }

    private static List<Double[]> plot(List<TagValue> values, Instant now) {
        List<Double[]> points = new ArrayList<>();
        int step = Math.max(1, values.size() / PLOT_POINTS);
        for (int i = values.size() - 1; i >= 0; i -= step) {
            TagValue value = values.get(i);
            double ago = Duration.between(value.receiveTime(), now).toMillis() / 1000.0;
            Double number = value.quality().isBad() ? null : value.value().map(PlantController::number).orElse(null);
            points.add(0, new Double[] {ago, number});
        }
        return points;
    }

    private static Double number(Object value) {
        return value instanceof Number number ? (Double) number.doubleValue() : value instanceof Boolean on ? (Double) (on ? 1.0 : 0.0) : null;
    }

    @PostMapping("/plant/record")
    String record(@RequestParam(name = "tag", required = false) List<String> keys, Principal by, RedirectAttributes flash) {
        if (keys == null || keys.isEmpty()) {
            flash.addFlashAttribute("problem", "No tag is ticked. Tick those that belong into one row, then choose Record these.");
            return "redirect:/plant";
        }
        // The columns stand in the order of the tag list, however the ticks were found.
        Set<String> wanted = Set.copyOf(keys);
        List<TagRef> refs = finder.find("", "").stream().filter(tag -> wanted.contains(tag.key())).map(FoundTag::ref).toList();
        if (refs.size() < wanted.size()) {
            throw new IllegalArgumentException("Some of these tags are not taken from their source any more. Load the page again.");
        }
        RecorderDefinition recorder = newRecorder.of(refs);
        definitions.edit(recorder, 0, by.getName());
        return "redirect:/records/" + recorder.id();
    }
}
