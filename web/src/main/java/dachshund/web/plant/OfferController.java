package dachshund.web.plant;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.source.PlantLink.Found;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reach.Reaching;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** What a source offers: walked through folder by folder, searched, and taken. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/sources/{id}")
class OfferController {

    private static final int FOUND = 200;
    private static final Duration LONG_WALK = Duration.ofSeconds(2);
    private static final Duration WALK_GOOD_FOR = Duration.ofMinutes(5);

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final Reaching reaching;
    /** What was seen of each source while browsing, so that taking it asks nothing again. */
    private final Map<String, Map<String, TagInfo>> seen = new ConcurrentHashMap<>();

    /** Walks that took long; a large address space is not walked again for each word of a search. */
    private final Map<String, Walked> walks = new ConcurrentHashMap<>();

    private record Walked(Map<String, String> settings, Instant at, List<TagInfo> tags) {}

    /** Something done over a link. */
    private interface Asking<T> {
        T ask(PlantLink link) throws LinkProblem;
    }

    OfferController(Definitions definitions, Drafts drafts, Engine engine, Reaching reaching) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.reaching = reaching;
    }

    private SourceDefinition source(String id) {
        return definitions.find(SourceDefinition.class, id).orElseThrow();
    }

    /** Over the connection at work where there is one with the same settings, else over one of its own. */
    private <T> T ask(SourceDefinition source, Asking<T> asking) throws LinkProblem {
        Optional<PlantLink> running = engine.sources()
                .find(source.id())
                .filter(run -> run.status().state() == LinkState.CONNECTED
                        && run.definition().settings().equals(source.settings()))
                .flatMap(run -> run.link());
        if (running.isPresent()) {
            return asking.ask(running.get());
        }
        try (PlantLink own = reaching.link(source)) {
            return asking.ask(own);
        }
    }

    /** Everything that the source offers; what took long to walk through is good for some minutes. */
    private List<TagInfo> everything(SourceDefinition source) throws LinkProblem {
        Instant now = engine.clock().now();
        Walked known = walks.get(source.id());
        if (known != null
                && known.settings().equals(source.settings())
                && known.at().plus(WALK_GOOD_FOR).isAfter(now)) {
            return known.tags();
        }
        List<TagInfo> tags = ask(source, Offers::all);
        if (now.plus(LONG_WALK).isBefore(engine.clock().now())) {
            walks.put(source.id(), new Walked(source.settings(), now, tags));
        }
        return tags;
    }

    private void remember(String id, List<TagInfo> tags) {
        Map<String, TagInfo> known = seen.computeIfAbsent(id, each -> new ConcurrentHashMap<>());
        if (known.size() > 2 * Offers.MOST) {
            known.clear();
        }
        tags.forEach(tag -> known.put(tag.address(), tag));
    }

    private void frame(SourceDefinition source, Model model) {
        model.addAttribute("source", source);
        model.addAttribute("taken", source.tags().stream().map(TagInfo::address).collect(Collectors.toSet()));
        model.addAttribute("seen", drafts.revision(source.id()));
    }

    /** The tags of a page in the order of the list, folders apart. */
    private void page(PlantLink.Page page, String folder, String path, Model model) {
        model.addAttribute(
                "below",
                page.found().stream().filter(Found.Folder.class::isInstance).toList());
        model.addAttribute(
                "tags",
                page.found().stream()
                        .filter(Found.Tag.class::isInstance)
                        .map(found -> ((Found.Tag) found).info())
                        .toList());
        model.addAttribute("more", page.more());
        model.addAttribute("folder", folder);
        model.addAttribute("path", path);
    }

    @GetMapping("/offers")
    String offers(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        frame(source, model);
        try {
            page(browse(source, "", "", ""), "", "", model);
        } catch (LinkProblem problem) {
            model.addAttribute("problem", problem.getMessage());
        }
        return "plant/offers";
    }

    private PlantLink.Page browse(SourceDefinition source, String folder, String path, String from) throws LinkProblem {
        PlantLink.Page page = ask(source, link -> link.browse(folder, path, from));
        remember(
                source.id(),
                page.found().stream()
                        .filter(Found.Tag.class::isInstance)
                        .map(found -> ((Found.Tag) found).info())
                        .toList());
        return page;
    }

    @GetMapping("/offers/folder")
    String folder(
            @PathVariable String id,
            @RequestParam String folder,
            @RequestParam String path,
            @RequestParam(defaultValue = "") String from,
            Model model) {
        SourceDefinition source = source(id);
        frame(source, model);
        try {
            page(browse(source, folder, path, from), folder, path, model);
        } catch (LinkProblem problem) {
            model.addAttribute("problem", problem.getMessage());
        }
        return "plant/offer-list :: content";
    }

    /** Tags whose path, name or description have all of the words, from the whole source. */
    @GetMapping("/offers/search")
    String search(@PathVariable String id, @RequestParam(defaultValue = "") String q, Model model) {
        if (q.isBlank()) {
            return folder(id, "", "", "", model);
        }
        SourceDefinition source = source(id);
        frame(source, model);
        try {
            List<TagInfo> all = everything(source);
            remember(id, all);
            String[] words = q.toLowerCase(Locale.ROOT).strip().split("\\s+");
            List<TagInfo> found = all.stream()
                    .filter(tag -> {
                        String text =
                                (tag.path() + " " + tag.name() + " " + tag.description()).toLowerCase(Locale.ROOT);
                        return java.util.Arrays.stream(words).allMatch(text::contains);
                    })
                    .toList();
            model.addAttribute("found", found.stream().limit(FOUND).toList());
            model.addAttribute("count", found.size());
            model.addAttribute("all", all.size());
        } catch (LinkProblem problem) {
            model.addAttribute("problem", problem.getMessage());
        }
        return "plant/offer-list :: found";
    }

    /**
     * Takes tags: what was shown and is ticked comes, what was shown and is not ticked goes, what was not shown stays.
     */
    @PostMapping("/take")
    String take(
            @PathVariable String id,
            @RequestParam(name = "address", required = false) List<String> addresses,
            @RequestParam(name = "shown", required = false) List<String> shown,
            @RequestParam(defaultValue = "false") boolean all,
            @RequestParam int seen,
            Principal by,
            RedirectAttributes flash)
            throws LinkProblem {
        SourceDefinition source = source(id);
        Map<String, TagInfo> taken = new LinkedHashMap<>();
        source.tags().forEach(tag -> taken.put(tag.address(), tag));
        int before = taken.size();
        if (all) {
            List<TagInfo> offered = everything(source);
            offered.forEach(tag -> taken.merge(tag.address(), tag, TagInfo::renewed));
        } else {
            Set<String> ticked = addresses == null ? Set.of() : new HashSet<>(addresses);
            Set<String> unticked = new HashSet<>(shown == null ? List.of() : shown);
            unticked.removeAll(ticked);
            List<String> kept = new ArrayList<>();
            for (String address : unticked) {
                TagInfo gone = taken.get(address);
                if (gone != null && !definitions.users(new TagRef(id, address)).isEmpty()) {
                    kept.add(gone.name());
                } else {
                    taken.remove(address);
                }
            }
            if (!kept.isEmpty()) {
                flash.addFlashAttribute("problem", "Still used, so not given back: " + String.join(", ", kept) + ".");
            }
            come(source, ticked, taken);
        }
        drafts.edit(source.withTags(List.copyOf(taken.values())), seen, by.getName());
        int more = taken.size() - before;
        flash.addFlashAttribute(
                "said",
                taken.size() + " tags are taken from " + source.name()
                        + (more > 0 && before > 0 ? ", " + more + " of them new" : "")
                        + ". Their values appear below as they arrive.");
        return "redirect:/plant?source=" + id;
    }

    private void come(SourceDefinition source, Set<String> ticked, Map<String, TagInfo> taken) throws LinkProblem {
        Map<String, TagInfo> known = seen.getOrDefault(source.id(), Map.of());
        if (!known.keySet().containsAll(ticked)) {
            remember(source.id(), everything(source));
            known = seen.getOrDefault(source.id(), Map.of());
        }
        for (String address : ticked) {
            TagInfo offered = known.get(address);
            if (offered != null) {
                taken.merge(address, offered, TagInfo::renewed);
            }
        }
    }

    @ExceptionHandler(LinkProblem.class)
    String sourceAway(LinkProblem problem, HttpServletRequest request, RedirectAttributes flash) {
        flash.addFlashAttribute("problem", problem.getMessage());
        return "redirect:" + request.getServletPath().replaceAll("/[a-z]+$", "");
    }
}
