package dachshund.office.lineup;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Repeatable;
import dachshund.core.equipment.Alike;
import dachshund.core.lineup.LineEdits;
import dachshund.core.lineup.LineUp;
import dachshund.core.lineup.Proposals;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.work.Progress;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * One design with the lines that follow it and the machines that it fits, as they are designed at the time of asking. What
 * changes lines makes drafts.
 */
public final class OneLineUp<D extends Repeatable<D, M>, M> {

    private final LineUp<D, M> kind;
    private final D original;
    private final Definitions definitions;
    private final Drafts drafts;
    private final TagFinder finder;
    private final LineList list;

    OneLineUp(LineUp<D, M> kind, D original, Definitions definitions, Drafts drafts, TagFinder finder, LineList list) {
        this.kind = kind;
        this.original = original;
        this.definitions = definitions;
        this.drafts = drafts;
        this.finder = finder;
        this.list = list;
    }

    /**
     * A line beside its original.
     *
     * @param tables  names of tables and files of its own
     * @param differs constants and rate of its own
     * @param behind  whether the original would make another line of it now
     * @param edits   what was edited in it by hand
     * @param gaps    tags of the original that it has none for
     */
    public record Line(
            Repeatable<?, ?> design,
            Collection<String> tables,
            List<String> differs,
            boolean behind,
            List<LineUp.Edit> edits,
            List<TagRef> gaps) {}

    /** A machine that the design fits, and the line it would have. */
    public record Offer(Proposals.Proposed proposed, Repeatable<?, ?> design) {}

    /** What is to become of tags that a line has not. */
    public enum Choice {
        GAP,
        LEFT_OUT,
        SHARED;

        private <M> Follows<M> of(Follows<M> follows, List<TagRef> tags) {
            List<TagRef> more = new ArrayList<>(this == SHARED ? follows.shared() : follows.leftOut());
            more.addAll(tags);
            return switch (this) {
                case GAP -> follows;
                case LEFT_OUT -> follows.withChoices(follows.shared(), more);
                case SHARED -> follows.withChoices(more, follows.leftOut());
            };
        }
    }

    /**
     * What came of bringing lines along.
     *
     * @param drafted how many are drafted
     * @param keep    how many of them keep something that was edited by hand
     */
    public record Brought(int drafted, int keep) {}

    public D original() {
        return original;
    }

    /** Whether lines have tables or files of their own. */
    public boolean ownTables() {
        return kind.ownTables();
    }

    public List<D> lines() {
        return definitions.all(kind.type()).stream()
                .filter(each -> each.follows()
                        .filter(follows -> follows.original().equals(original.id()))
                        .isPresent())
                .toList();
    }

    /** Lines as they stand beside their original, some of all. */
    public List<Line> beside(List<? extends Repeatable<?, ?>> lines) {
        return lines.stream().map(each -> beside(kind.type().cast(each))).toList();
    }

    private Line beside(D line) {
        Follows<M> follows = line.follows().orElseThrow();
        List<String> differs = new ArrayList<>();
        follows.rate().ifPresent(rate -> differs.add("rate " + PeriodText.write(rate)));
        follows.constants().forEach((name, text) -> differs.add(name + " = " + text));
        LineEdits<D, M> own = edits(line);
        return new Line(line, kind.tables(line).values(), differs, own.behind(), own.edits(), own.gaps());
    }

    private LineEdits<D, M> edits(D line) {
        return new LineEdits<>(kind, original, line);
    }

    /** How many lines the original would make otherwise now. */
    public long behind() {
        return lines().stream().filter(each -> edits(each).behind()).count();
    }

    /** Tags of the original that more than one line has none for, with how many. */
    public Map<TagRef, Integer> sharedGaps() {
        Map<TagRef, Integer> lines = new LinkedHashMap<>();
        lines().forEach(each ->
                kind.gaps(original, each.follows().orElseThrow()).forEach(tag -> lines.merge(tag, 1, Integer::sum)));
        lines.values().removeIf(each -> each < 2);
        return lines;
    }

    /** The machines that the design fits and that have no line yet. */
    public List<Offer> offers() {
        return proposed().stream()
                .map(each -> new Offer(each, each.line(kind, original, "00000000")))
                .toList();
    }

    private List<Proposals.Proposed> proposed() {
        List<Alike.Placed> placed = finder.find("", "").stream()
                .map(tag -> new Alike.Placed(tag.ref(), tag.info()))
                .toList();
        Set<Object> taken = new HashSet<>();
        Set<String> names = new HashSet<>();
        lines().forEach(each -> {
            taken.add(targets(each.follows().orElseThrow().tags()));
            taken.add(each.equipment());
            names.add(each.name().toLowerCase(Locale.ROOT));
        });
        return Proposals.of(kind, original, definitions.all(EquipmentDefinition.class), placed).stream()
                .filter(each -> each.equipment().isEmpty() || !taken.contains(each.equipment()))
                .filter(each -> each.swaps().isEmpty()
                        || !taken.contains(targets(each.swaps()))
                                && !names.contains(each.name().toLowerCase(Locale.ROOT)))
                .toList();
    }

    private static Set<TagRef> targets(List<Follows.Swap> swaps) {
        return swaps.stream().map(Follows.Swap::to).collect(Collectors.toSet());
    }

    /**
     * Makes lines of proposed machines.
     *
     * @param ticked  keys of the machines
     * @param missing what becomes of what they lack
     * @return how many are drafted
     */
    public int make(Set<String> ticked, Choice missing, String by, Progress progress) {
        progress.step("Making a line for each machine", ticked.size(), true);
        List<D> made = new ArrayList<>();
        for (Proposals.Proposed each : proposed()) {
            if (ticked.contains(each.key())) {
                made.add(named(chosen(each.line(kind, original, Definitions.newId()), missing), made));
                progress.done(made.size());
            }
        }
        progress.step("Drafting them", 0, false);
        return drafts.editAll(made, by);
    }

    /** The line with a choice for all that it lacks. */
    private D chosen(D line, Choice choice) {
        Follows<M> follows = line.follows().orElseThrow();
        return choice == Choice.GAP
                ? line
                : kind.made(original, line.withFollows(Optional.of(choice.of(follows, kind.gaps(original, follows)))));
    }

    /** Under a name that nobody else has. */
    private D named(D line, List<D> others) {
        String name = line.name();
        for (int n = 2; !definitions.nameProblem(kind.type(), line.id(), name).isEmpty() || taken(name, others); n++) {
            name = line.name() + " " + n;
        }
        return line.withName(name);
    }

    private static boolean taken(String name, List<? extends Repeatable<?, ?>> others) {
        return others.stream().anyMatch(each -> each.name().equalsIgnoreCase(name));
    }

    /**
     * Says what becomes of a tag that lines have not.
     *
     * @param line id of the only line meant; empty for all that have this gap
     * @return how many are drafted
     */
    public int decide(TagRef tag, Choice choice, String line, String by) {
        List<D> changed = lines().stream()
                .filter(each -> line.isEmpty() || line.equals(each.id()))
                .filter(each ->
                        kind.gaps(original, each.follows().orElseThrow()).contains(tag))
                .map(each -> edits(each.withFollows(each.follows().map(follows -> choice.of(follows, List.of(tag)))))
                        .brought(Set.of()))
                .toList();
        return drafts.editAll(changed, by);
    }

    /**
     * Makes lines what the original makes of them now. What was edited in them by hand stays, unless it is given up here.
     *
     * @param ids     of the lines; empty for all that are behind
     * @param dropped parts of the named lines whose edits are given up
     */
    public Brought bring(Optional<Collection<String>> ids, Set<String> dropped, String by) {
        List<D> changed = new ArrayList<>();
        int keep = 0;
        for (D each : lines()) {
            LineEdits<D, M> edits = edits(each);
            if (ids.map(named -> named.contains(each.id())).orElseGet(edits::behind)) {
                changed.add(edits.brought(dropped));
                keep += edits.edits().stream().allMatch(edit -> dropped.contains(edit.part())) ? 0 : 1;
            }
        }
        return new Brought(drafts.editAll(changed, by), keep);
    }

    /** Lets a line go its own way. */
    public void letGo(String id, String by) {
        D line = definitions.find(kind.type(), id).orElseThrow();
        drafts.editAll(List.of(line.withFollows(Optional.empty())), by);
    }

    /** The lines as CSV. */
    public String csv() {
        return list.write(kind, original, lines());
    }

    /**
     * Takes lines of CSV, all or none.
     *
     * @param problems is told in sentences why none is taken
     * @return how many are drafted
     */
    public int take(String text, List<String> problems, String by) {
        LineList.Read<D> read = list.read(kind, original, lines(), text);
        problems.addAll(read.problems());
        if (!problems.isEmpty()) {
            return 0;
        }
        List<D> made = new ArrayList<>();
        read.lines().forEach(each -> made.add(named(each, made)));
        return drafts.editAll(made, by);
    }
}
