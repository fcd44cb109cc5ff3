package dachshund.web.lineup;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.Repeatable;
import dachshund.core.lineup.LineUp;
import dachshund.core.lineup.Proposals;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.lineup.LineUps;
import dachshund.office.lineup.OneLineUp;
import dachshund.office.lineup.OneLineUp.Choice;
import dachshund.office.work.Work;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The line-up of a design: the machines it fits, the lines that follow it, and what a change of it would do to them. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/line-up")
class LineUpController {

    private static final int PAGE = 100;

    private final Definitions definitions;
    private final LineUps lineUps;
    private final List<LineShown<?>> kinds;
    private final LongWork longWork;

    /**
     * A line as the page shows it.
     *
     * @param now      what it would do now
     * @param problems why it cannot work
     */
    public record Line(
            Repeatable<?, ?> design,
            String equipment,
            String tables,
            String differences,
            boolean behind,
            List<LineUp.Edit> edits,
            List<Gap> gaps,
            boolean released,
            String now,
            List<String> problems) {}

    /** A tag of the original for which a line has none. */
    public record Gap(String name, TagRef tag) {}

    /** A tag that several lines have not. */
    public record SharedGap(Gap gap, int lines) {}

    /** A machine that the design fits, with what it would do there. */
    public record Offer(Proposals.Proposed proposed, String now) {}

    LineUpController(Definitions definitions, LineUps lineUps, List<LineShown<?>> kinds, LongWork longWork) {
        this.definitions = definitions;
        this.lineUps = lineUps;
        this.kinds = kinds;
        this.longWork = longWork;
    }

    private OneLineUp<?, ?> lineUp(String id) {
        return lineUps.of(id).orElseThrow();
    }

    private LineShown<?> shown(Repeatable<?, ?> design) {
        return kinds.stream()
                .filter(each -> each.type().isInstance(design))
                .findFirst()
                .orElseThrow();
    }

    private static <D extends Repeatable<D, ?>> String now(LineShown<D> kind, Repeatable<?, ?> line, Plant plant) {
        return kind.now(kind.type().cast(line), plant);
    }

    private static <D extends Repeatable<D, ?>> List<String> problems(
            LineShown<D> kind, Repeatable<?, ?> line, Plant plant) {
        return kind.problems(kind.type().cast(line), plant);
    }

    @GetMapping
    String show(@PathVariable String id, @RequestParam(defaultValue = "1") int page, Model model) {
        OneLineUp<?, ?> lineUp = lineUp(id);
        LineShown<?> kind = shown(lineUp.original());
        Plant plant = definitions.plant();
        List<? extends Repeatable<?, ?>> lines = lineUp.lines();
        int pages = Math.max(1, (lines.size() + PAGE - 1) / PAGE);
        int at = Math.max(1, Math.min(page, pages));
        model.addAttribute("original", lineUp.original());
        model.addAttribute("ownTables", lineUp.ownTables());
        model.addAttribute("nowHeading", kind.nowHeading());
        model.addAttribute(
                "lines",
                lineUp.beside(lines.subList((at - 1) * PAGE, Math.min(lines.size(), at * PAGE))).stream()
                        .map(each -> line(kind, each, plant))
                        .toList());
        model.addAttribute("total", lines.size());
        model.addAttribute("behind", lineUp.behind());
        List<SharedGap> shared = new ArrayList<>();
        lineUp.sharedGaps().forEach((tag, count) -> shared.add(new SharedGap(gap(tag), count)));
        model.addAttribute("sharedGaps", shared);
        model.addAttribute("page", at);
        model.addAttribute("pages", pages);
        model.addAttribute(
                "offers",
                lineUp.offers().stream()
                        .map(each -> new Offer(each.proposed(), now(kind, each.design(), plant)))
                        .toList());
        model.addAttribute("follower", lineUp.original().follows().isPresent());
        return "lineup/line-up";
    }

    private Line line(LineShown<?> kind, OneLineUp.Line line, Plant plant) {
        Repeatable<?, ?> design = line.design();
        return new Line(
                design,
                definitions
                        .find(EquipmentDefinition.class, design.equipment())
                        .map(Definition::name)
                        .orElse(""),
                String.join(", ", line.tables()),
                String.join(", ", line.differs()),
                line.behind(),
                line.edits(),
                line.gaps().stream().map(this::gap).toList(),
                definitions.live(design.id()).isPresent(),
                now(kind, design, plant),
                problems(kind, design, plant));
    }

    private Gap gap(TagRef tag) {
        return new Gap(definitions.tag(tag).map(TagInfo::name).orElse(tag.address()), tag);
    }

    /** Makes a line of each proposed machine that is ticked. */
    @PostMapping
    String add(
            @PathVariable String id,
            @RequestParam(required = false) List<String> machine,
            @RequestParam(defaultValue = "GAP") Choice missing,
            Principal by,
            RedirectAttributes flash) {
        OneLineUp<?, ?> lineUp = lineUp(id);
        Set<String> ticked = Set.copyOf(machine == null ? List.of() : machine);
        String what = lineUp.original().kind().words().toLowerCase(Locale.ROOT);
        return longWork.begin(
                "Line-up of " + lineUp.original().name(), by, "/records/" + id + "/line-up", flash, progress -> {
                    int drafted = lineUp.make(ticked, missing, by.getName(), progress);
                    return new Work.Outcome(
                            drafted == 0
                                    ? "Tick the machines that get a " + what + "."
                                    : drafted + " " + what + (drafted == 1 ? " is" : "s are")
                                            + " drafted. Release makes them live.",
                            drafted > 0,
                            "/records/" + id + "/line-up");
                });
    }

    /** Says what becomes of a tag that lines have not: of one line, or of all that have this gap. */
    @PostMapping("/gap")
    String gap(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String line,
            @RequestParam String source,
            @RequestParam String address,
            @RequestParam Choice choice,
            Principal by,
            RedirectAttributes flash) {
        TagRef tag = new TagRef(source, address);
        int drafted = lineUp(id).decide(tag, choice, line, by.getName());
        flash.addFlashAttribute(
                "said",
                gap(tag).name() + (choice == Choice.SHARED ? " is read from the original" : " is left out") + " in "
                        + drafted + (drafted == 1 ? " line." : " lines."));
        return "redirect:/records/" + id + "/line-up";
    }

    /**
     * Makes lines what the original makes of them now. What was edited in them by hand stays, unless it is given up here.
     *
     * @param line ids of the lines; all that are behind, where none is named
     * @param drop parts of the named lines whose edits are given up
     */
    @PostMapping("/bring")
    String bring(
            @PathVariable String id,
            @RequestParam(required = false) List<String> line,
            @RequestParam(required = false) List<String> drop,
            Principal by,
            RedirectAttributes flash) {
        Optional<Collection<String>> lines = Optional.ofNullable(line);
        OneLineUp.Brought brought = lineUp(id).bring(lines, drop == null ? Set.of() : Set.copyOf(drop), by.getName());
        int drafted = brought.drafted();
        int keep = brought.keep();
        flash.addFlashAttribute(
                "said",
                drafted == 0
                        ? "All of them follow already."
                        : drafted + (drafted == 1 ? " line is" : " lines are") + " brought along, as drafts."
                                + (keep == 0
                                        ? ""
                                        : " " + keep + (keep == 1 ? " keeps" : " keep") + " what was edited by hand."));
        return "redirect:/records/" + id + "/line-up";
    }

    /** Lets a line go its own way. */
    @PostMapping("/let-go")
    String letGo(@PathVariable String id, @RequestParam String line, Principal by) {
        lineUp(id).letGo(line, by.getName());
        return "redirect:/records/" + id + "/line-up";
    }

    /** The lines as CSV: what differs is a column. */
    @GetMapping("/lines.csv")
    ResponseEntity<byte[]> csv(@PathVariable String id) {
        OneLineUp<?, ?> lineUp = lineUp(id);
        return ResponseEntity.ok()
                .contentType(new MediaType("text", "csv", StandardCharsets.UTF_8))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(lineUp.original().name() + " lines.csv", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(lineUp.csv().getBytes(StandardCharsets.UTF_8));
    }

    /** All lines or none: nothing is taken while one line has a problem. */
    @PostMapping("/lines")
    String paste(
            @PathVariable String id, @RequestParam String text, Principal by, Model model, RedirectAttributes flash) {
        List<String> problems = new ArrayList<>();
        int drafted = lineUp(id).take(text, problems, by.getName());
        if (!problems.isEmpty()) {
            show(id, 1, model);
            model.addAttribute("text", text);
            model.addAttribute("lineProblems", problems);
            return "lineup/line-up";
        }
        flash.addFlashAttribute(
                "said",
                drafted + (drafted == 1 ? " line is" : " lines are") + " drafted from "
                        + Arrays.asList(text.split("\n")).size() + " lines of text.");
        return "redirect:/records/" + id + "/line-up";
    }
}
