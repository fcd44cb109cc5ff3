package dachshund.web.lineup;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.equipment.Alike;
import dachshund.core.lineup.LineEdits;
import dachshund.core.lineup.LineUp;
import dachshund.core.lineup.Proposals;
import dachshund.core.release.LayoutCheck;
import dachshund.core.row.Made;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.lineup.LineList;
import dachshund.office.tag.TagFinder;
import dachshund.office.work.Work;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
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

/** The line-up of a recorder: the machines it fits, the recorders that follow it, and what a change of it would do to them. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}/line-up")
class LineUpController {

    private static final int PAGE = 100;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final TagFinder finder;
    private final Shown shown;
    private final LineList lineList;
    private final LongWork longWork;

    /**
     * A recorder of the line-up.
     *
     * @param behind   whether the original would make another line of it now
     * @param edits    what was edited in it by hand
     * @param gaps     tags of the original that it has none for
     * @param row      the row that it would write now
     * @param problems why it cannot work
     */
    public record Line(
            RecorderDefinition recorder,
            String equipment,
            String tables,
            String differences,
            boolean behind,
            List<LineEdits.Edit> edits,
            List<Gap> gaps,
            boolean released,
            String row,
            List<String> problems) {}

    /** A tag of the original for which a line has none. */
    public record Gap(String name, TagRef tag) {}

    /** A tag that several lines have not. */
    public record SharedGap(Gap gap, int lines) {}

    /** What is to become of tags that a line has not. */
    public enum Choice {
        GAP,
        LEFT_OUT,
        SHARED;

        private Follows of(Follows follows, List<TagRef> tags) {
            List<TagRef> more = new ArrayList<>(this == SHARED ? follows.shared() : follows.leftOut());
            more.addAll(tags);
            return switch (this) {
                case GAP -> follows;
                case LEFT_OUT -> follows.withChoices(follows.shared(), more);
                case SHARED -> follows.withChoices(more, follows.leftOut());
            };
        }
    }

    /** A machine that the design fits, with the row it would write there. */
    public record Offer(Proposals.Proposed proposed, String row) {}

    LineUpController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            TagFinder finder,
            Shown shown,
            LineList lineList,
            LongWork longWork) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.finder = finder;
        this.shown = shown;
        this.lineList = lineList;
        this.longWork = longWork;
    }

    private RecorderDefinition original(String id) {
        return definitions.find(RecorderDefinition.class, id).orElseThrow();
    }

    private List<RecorderDefinition> followers(String id) {
        return definitions.all(RecorderDefinition.class).stream()
                .filter(each -> each.follows()
                        .filter(follows -> follows.original().equals(id))
                        .isPresent())
                .toList();
    }

    private List<Proposals.Proposed> proposed(RecorderDefinition original) {
        List<Alike.Placed> placed = finder.find("", "").stream()
                .map(tag -> new Alike.Placed(tag.ref(), tag.info()))
                .toList();
        Set<Object> taken = new HashSet<>();
        Set<String> names = new HashSet<>();
        followers(original.id()).forEach(each -> {
            taken.add(each.follows().orElseThrow().tags().stream()
                    .map(swap -> swap.to())
                    .collect(Collectors.toSet()));
            taken.add(each.equipment());
            names.add(each.name().toLowerCase(java.util.Locale.ROOT));
        });
        return Proposals.of(original, definitions.all(EquipmentDefinition.class), placed).stream()
                .filter(each -> each.equipment().isEmpty() || !taken.contains(each.equipment()))
                .filter(each -> each.swaps().isEmpty()
                        || !taken.contains(each.swaps().stream()
                                        .map(swap -> swap.to())
                                        .collect(Collectors.toSet()))
                                && !names.contains(each.name().toLowerCase(java.util.Locale.ROOT)))
                .toList();
    }

    @GetMapping
    String show(@PathVariable String id, @RequestParam(defaultValue = "1") int page, Model model) {
        RecorderDefinition original = original(id);
        Plant plant = definitions.plant();
        List<RecorderDefinition> followers = followers(id);
        int pages = Math.max(1, (followers.size() + PAGE - 1) / PAGE);
        int at = Math.max(1, Math.min(page, pages));
        model.addAttribute("original", original);
        model.addAttribute(
                "lines",
                followers.subList((at - 1) * PAGE, Math.min(followers.size(), at * PAGE)).stream()
                        .map(each -> line(original, each, plant))
                        .toList());
        model.addAttribute("total", followers.size());
        model.addAttribute(
                "behind",
                followers.stream()
                        .filter(each -> new LineEdits(original, each).behind())
                        .count());
        model.addAttribute("sharedGaps", sharedGaps(original, followers));
        model.addAttribute("page", at);
        model.addAttribute("pages", pages);
        List<Offer> offers = new ArrayList<>();
        for (Proposals.Proposed each : proposed(original)) {
            offers.add(new Offer(each, row(each.recorder(original, "00000000"), plant)));
        }
        model.addAttribute("offers", offers);
        model.addAttribute("follower", original.follows().isPresent());
        return "lineup/line-up";
    }

    private Line line(RecorderDefinition original, RecorderDefinition follower, Plant plant) {
        Dialect dialect = follower.wheres().stream()
                .findFirst()
                .flatMap(where -> definitions.destination(where.destination()))
                .map(destination -> engine.storeKind(destination.store()).dialect())
                .orElse(new StandardDialect());
        List<String> problems =
                LayoutCheck.remarks(follower.layout(), dialect, definitions::tag, plant, follower.equipment()).stream()
                        .filter(LayoutCheck.Remark::blocking)
                        .map(LayoutCheck.Remark::sentence)
                        .toList();
        List<String> differs = new ArrayList<>();
        follower.follows()
                .orElseThrow()
                .rate()
                .ifPresent(rate -> differs.add("rate " + dachshund.core.time.PeriodText.write(rate)));
        follower.follows().orElseThrow().constants().forEach((name, text) -> differs.add(name + " = " + text));
        String equipment = definitions
                .find(EquipmentDefinition.class, follower.equipment())
                .map(Definition::name)
                .orElse("");
        LineEdits own = new LineEdits(original, follower);
        return new Line(
                follower,
                equipment,
                follower.wheres().stream().map(RecorderDefinition.Where::table).collect(Collectors.joining(", ")),
                String.join(", ", differs),
                own.behind(),
                own.edits(),
                own.gaps().stream().map(this::gap).toList(),
                definitions.live(follower.id()).isPresent(),
                row(follower, plant),
                problems);
    }

    /** On whatever page the lines stand. */
    private List<SharedGap> sharedGaps(RecorderDefinition original, List<RecorderDefinition> followers) {
        Map<TagRef, Integer> lines = new LinkedHashMap<>();
        followers.forEach(each ->
                LineUp.gaps(original, each.follows().orElseThrow()).forEach(tag -> lines.merge(tag, 1, Integer::sum)));
        return lines.entrySet().stream()
                .filter(each -> each.getValue() > 1)
                .map(each -> new SharedGap(gap(each.getKey()), each.getValue()))
                .toList();
    }

    private Gap gap(TagRef tag) {
        return new Gap(definitions.tag(tag).map(TagInfo::name).orElse(tag.address()), tag);
    }

    /** The first row that a recorder would write now, or why none. */
    private String row(RecorderDefinition recorder, Plant plant) {
        List<Made> made = recorder.layout().shape() == dachshund.core.layout.Shape.ROW_PER_TAG
                        && recorder.layout().lines().isEmpty()
                ? List.of()
                : engine.preview(recorder, plant);
        if (made.isEmpty()) {
            return "";
        }
        if (made.get(0) instanceof Made.Whole whole) {
            List<String> cells = new ArrayList<>();
            for (int i = 0; i < whole.row().cells().length; i++) {
                if (!recorder.layout().written().get(i).isRowId()) {
                    cells.add(shown.cell(whole.row().cells()[i]));
                }
            }
            return String.join("  ", cells);
        }
        return made.get(0) instanceof Made.Refused refused
                ? "set aside: " + refused.reason()
                : "not written: " + ((Made.Skipped) made.get(0)).reason();
    }

    /** Makes a recorder of each proposed machine that is ticked. */
    @PostMapping
    String add(
            @PathVariable String id,
            @RequestParam(required = false) List<String> machine,
            @RequestParam(defaultValue = "GAP") Choice missing,
            Principal by,
            RedirectAttributes flash) {
        RecorderDefinition original = original(id);
        Set<String> ticked = Set.copyOf(machine == null ? List.of() : machine);
        return longWork.begin(
                "Line-up of " + original.name(),
                by,
                "/records/" + id + "/line-up",
                flash,
                progress -> added(original, ticked, missing, by.getName(), progress));
    }

    private Work.Outcome added(
            RecorderDefinition original, Set<String> ticked, Choice missing, String by, Progress progress) {
        progress.step("Making a recorder for each machine", ticked.size(), true);
        List<RecorderDefinition> made = new ArrayList<>();
        for (Proposals.Proposed each : proposed(original)) {
            if (ticked.contains(each.key())) {
                made.add(named(chosen(original, each.recorder(original, Definitions.newId()), missing), made));
                progress.done(made.size());
            }
        }
        progress.step("Drafting them", 0, false);
        int drafted = drafts.editAll(made, by);
        return new Work.Outcome(
                drafted == 0
                        ? "Tick the machines that get a recorder."
                        : drafted + (drafted == 1 ? " recorder is" : " recorders are")
                                + " drafted. Release makes them live.",
                drafted > 0,
                "/records/" + original.id() + "/line-up");
    }

    /** The line with a choice for all that it lacks. */
    private static RecorderDefinition chosen(RecorderDefinition original, RecorderDefinition line, Choice choice) {
        Follows follows = line.follows().orElseThrow();
        return choice == Choice.GAP
                ? line
                : LineUp.made(
                        original, line.withFollows(Optional.of(choice.of(follows, LineUp.gaps(original, follows)))));
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
        RecorderDefinition original = original(id);
        TagRef tag = new TagRef(source, address);
        List<RecorderDefinition> changed = followers(id).stream()
                .filter(each -> line.isEmpty() || line.equals(each.id()))
                .filter(each ->
                        LineUp.gaps(original, each.follows().orElseThrow()).contains(tag))
                .map(each -> new LineEdits(
                                original,
                                each.withFollows(
                                        Optional.of(choice.of(each.follows().orElseThrow(), List.of(tag)))))
                        .brought(Set.of()))
                .toList();
        int drafted = drafts.editAll(changed, by.getName());
        flash.addFlashAttribute(
                "said",
                gap(tag).name() + (choice == Choice.SHARED ? " is read from the original" : " is left out") + " in "
                        + drafted + (drafted == 1 ? " line." : " lines."));
        return "redirect:/records/" + id + "/line-up";
    }

    /** Under a name that nobody else has. */
    private RecorderDefinition named(RecorderDefinition recorder, List<RecorderDefinition> others) {
        String name = recorder.name();
        for (int n = 2;
                !definitions
                                .nameProblem(RecorderDefinition.class, recorder.id(), name)
                                .isEmpty()
                        || taken(name, others);
                n++) {
            name = recorder.name() + " " + n;
        }
        return recorder.withName(name);
    }

    private static boolean taken(String name, List<RecorderDefinition> others) {
        return others.stream().anyMatch(each -> each.name().equalsIgnoreCase(name));
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
        RecorderDefinition original = original(id);
        Set<String> dropped = drop == null ? Set.of() : Set.copyOf(drop);
        List<RecorderDefinition> changed = new ArrayList<>();
        int keep = 0;
        for (RecorderDefinition each : followers(id)) {
            LineEdits edits = new LineEdits(original, each);
            if (line == null ? edits.behind() : line.contains(each.id())) {
                changed.add(edits.brought(dropped));
                keep += edits.edits().stream().allMatch(edit -> dropped.contains(edit.part())) ? 0 : 1;
            }
        }
        int drafted = drafts.editAll(changed, by.getName());
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

    /** Lets a recorder go its own way. */
    @PostMapping("/let-go")
    String letGo(@PathVariable String id, @RequestParam String line, Principal by) {
        RecorderDefinition follower =
                definitions.find(RecorderDefinition.class, line).orElseThrow();
        drafts.editAll(List.of(follower.withFollows(Optional.empty())), by.getName());
        return "redirect:/records/" + id + "/line-up";
    }

    /** The lines as CSV: what differs is a column. */
    @GetMapping("/lines.csv")
    ResponseEntity<byte[]> csv(@PathVariable String id) {
        RecorderDefinition original = original(id);
        return ResponseEntity.ok()
                .contentType(new MediaType("text", "csv", StandardCharsets.UTF_8))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(original.name() + " lines.csv", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(lineList.write(original, followers(id)).getBytes(StandardCharsets.UTF_8));
    }

    /** All lines or none: nothing is taken while one line has a problem. */
    @PostMapping("/lines")
    String paste(
            @PathVariable String id, @RequestParam String text, Principal by, Model model, RedirectAttributes flash) {
        LineList.Read read = lineList.read(original(id), followers(id), text);
        if (!read.problems().isEmpty()) {
            show(id, 1, model);
            model.addAttribute("text", text);
            model.addAttribute("lineProblems", read.problems());
            return "lineup/line-up";
        }
        List<RecorderDefinition> made = new ArrayList<>();
        read.recorders().forEach(each -> made.add(named(each, made)));
        int drafted = drafts.editAll(made, by.getName());
        flash.addFlashAttribute(
                "said",
                drafted + (drafted == 1 ? " line is" : " lines are") + " drafted from "
                        + Arrays.asList(text.split("\n")).size() + " lines of text.");
        return "redirect:/records/" + id + "/line-up";
    }
}
