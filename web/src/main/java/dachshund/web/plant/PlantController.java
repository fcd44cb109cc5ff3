package dachshund.web.plant;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.source.SourceRun;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.definition.TagChanges;
import dachshund.office.filing.Filings;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.records.NewRecorder;
import java.security.Principal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The Plant workspace: sources, and the tags they have with their live values. */
@Needs(Right.DESIGN)
@Controller
class PlantController {

    /** The most rows that a page asks for at once, and the most tags that are ticked at once. */
    static final int MOST = 500;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final TagFinder finder;
    private final LiveTags live;
    private final NewRecorder newRecorder;
    private final Filings filings;
    private final TagChanges changes;

    /** A source with how it runs; no run where it could not be opened. */
    public record SourceLine(
            SourceDefinition source, Optional<SourceRun.Status> status, long live, boolean drafted, String kind) {}

    /** What the finder's fields hold. */
    public record Query(
            String source,
            String q,
            String kind,
            String quality,
            String changed,
            String unit,
            String equipment,
            String designed,
            String by) {

        TagFinder.Wanted wanted() {
            Optional<DataKind> sort =
                    kind == null || kind.isBlank() ? Optional.empty() : Optional.of(TagFacts.kind(kind));
            return new TagFinder.Wanted(
                    plain(source),
                    plain(q),
                    sort,
                    plain(quality),
                    plain(changed).isEmpty() ? Optional.empty() : Optional.of(PeriodText.read(changed)),
                    plain(unit),
                    plain(equipment),
                    TagFinder.Design.read(plain(designed), plain(by)));
        }

        private static String plain(String text) {
            return text == null ? "" : text.strip();
        }

        /** Whether anything is asked for but a source. */
        public boolean narrow() {
            return Stream.of(q, kind, quality, changed, unit, equipment, designed, by)
                    .anyMatch(each -> !plain(each).isEmpty());
        }
    }

    /** Some rows of all that were found. */
    public record Rows(int total, int from, List<LiveTags.Row> rows) {}

    PlantController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            TagFinder finder,
            LiveTags live,
            NewRecorder newRecorder,
            Filings filings,
            TagChanges changes) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.finder = finder;
        this.live = live;
        this.newRecorder = newRecorder;
        this.filings = filings;
        this.changes = changes;
    }

    /** What can be chosen, and what an address asks for, though there is none of it: else all would be shown. */
    private static List<String> offered(List<String> all, String asked) {
        return Query.plain(asked).isEmpty() || all.contains(asked)
                ? all
                : Stream.concat(all.stream(), Stream.of(asked)).toList();
    }

    @GetMapping("/plant")
    String plant(@ModelAttribute("query") Query query, Model model) {
        List<FoundTag> found = finder.find(query.wanted());
        model.addAttribute("folders", folders());
        model.addAttribute("chosen", Query.plain(query.source()));
        model.addAttribute("total", found.size());
        model.addAttribute("kinds", DataKind.values());
        model.addAttribute("changers", offered(changes.people(), query.by()));
        model.addAttribute("changesKnown", changes.known());
        model.addAttribute("units", offered(finder.units(Query.plain(query.source())), query.unit()));
        model.addAttribute(
                "machines",
                offered(
                        definitions.all(EquipmentDefinition.class).stream()
                                .map(EquipmentDefinition::name)
                                .sorted()
                                .toList(),
                        query.equipment()));
        model.addAttribute(
                "hasSources", !definitions.all(SourceDefinition.class).isEmpty());
        return "plant/plant";
    }

    /** Sources by folder, those outside any first. */
    private Map<String, List<SourceLine>> folders() {
        Map<String, List<SourceLine>> folders = new TreeMap<>();
        for (SourceDefinition source : definitions.all(SourceDefinition.class)) {
            Optional<SourceRun> run = engine.sources().find(source.id());
            folders.computeIfAbsent(filings.of(source.id()).folder(), folder -> new java.util.ArrayList<>())
                    .add(new SourceLine(
                            source,
                            run.map(SourceRun::status),
                            run.map(SourceRun::liveTags).orElse(0L),
                            definitions.draft(source.id()).isPresent(),
                            engine.sources().kind(source.link()).title()));
        }
        return folders;
    }

    @GetMapping("/plant/sources-state")
    String sourcesState(@RequestParam(defaultValue = "") String source, Model model) {
        model.addAttribute("folders", folders());
        model.addAttribute("chosen", source);
        return "plant/plant :: sources";
    }

    @GetMapping("/plant/tags")
    @ResponseBody
    Rows rows(Query query, @RequestParam(defaultValue = "0") int from, @RequestParam(defaultValue = "60") int count) {
        List<FoundTag> found = finder.find(query.wanted());
        int first = Math.max(0, Math.min(from, found.size()));
        int last = Math.min(found.size(), first + Math.max(0, Math.min(count, MOST)));
        return new Rows(found.size(), first, live.rows(found.subList(first, last)));
    }

    /** The keys of all that were found, so that they can be ticked together. */
    @GetMapping("/plant/keys")
    @ResponseBody
    List<String> keys(Query query) {
        return finder.find(query.wanted()).stream()
                .limit(MOST)
                .map(FoundTag::key)
                .toList();
    }

    @PostMapping("/plant/record")
    String record(
            @RequestParam(name = "tag", required = false) List<String> keys, Principal by, RedirectAttributes flash) {
        if (keys == null || keys.isEmpty()) {
            flash.addFlashAttribute(
                    "problem", "No tag is ticked. Tick those that belong into one row, then choose Record these.");
            return "redirect:/plant";
        }
        RecorderDefinition recorder = newRecorder.of(inOrder(keys));
        drafts.edit(recorder, 0, by.getName());
        flash.addFlashAttribute("said", newRecorder.whereSaid(recorder));
        return "redirect:/records/" + recorder.id();
    }

    /** The ticked tags in the order of the tag list, however the ticks were found. */
    private List<TagRef> inOrder(List<String> keys) {
        Set<String> wanted = Set.copyOf(keys);
        List<TagRef> refs = finder.find("", "").stream()
                .filter(tag -> wanted.contains(tag.key()))
                .map(FoundTag::ref)
                .toList();
        if (refs.size() < wanted.size()) {
            throw new IllegalArgumentException(
                    "Some of these tags are not taken from their source any more. Load the page again.");
        }
        return refs;
    }

    /** Leads the ticked tags on to another page, which takes them as parameters. */
    @PostMapping("/plant/lead-on")
    String leadOn(
            @RequestParam(name = "tag", required = false) List<String> keys,
            @RequestParam String to,
            RedirectAttributes flash) {
        Map<String, String> pages = new LinkedHashMap<>();
        pages.put("formula", "/plant/formulas/new");
        pages.put("equipment", "/plant/equipment/from-tags");
        pages.put("keeping", "/plant/keeping/new");
        pages.put("query", "/review/queries/new?way=TAGS");
        if (keys == null || keys.isEmpty()) {
            flash.addFlashAttribute("problem", "No tag is ticked. Tick some first.");
            return "redirect:/plant";
        }
        if (!pages.containsKey(to)) {
            throw new IllegalArgumentException("There is no such next step: " + to);
        }
        flash.addFlashAttribute("tags", inOrder(keys));
        return "redirect:" + pages.get(to);
    }
}
