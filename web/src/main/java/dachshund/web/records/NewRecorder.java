package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Reshape;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.TypeChoice;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import java.time.Duration;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Proposes what a recorder begins with, so that most of it can stay. */
@Component
public class NewRecorder {

    private static final Duration FIRST_RATE = Duration.ofSeconds(1);

    private final Definitions definitions;
    private final Engine engine;
    private final TagFinder finder;

    NewRecorder(Definitions definitions, Engine engine, TagFinder finder) {
        this.definitions = definitions;
        this.engine = engine;
        this.finder = finder;
    }

    /**
     * A recorder of these tags every second, into the destination that most others write to, or the only one; where none
     * stands out, into none.
     */
    public RecorderDefinition of(List<TagRef> tags) {
        Layout layout = Layout.proposed();
        for (TagRef tag : tags) {
            layout = withTag(layout, tag);
        }
        String name = freeName(tags.stream()
                .map(definitions::tag)
                .flatMap(Optional::stream)
                .map(TagInfo::path)
                .distinct()
                .toList());
        RecorderDefinition recorder = new RecorderDefinition(
                Definitions.newId(), name, "", List.of(new When.Every(FIRST_RATE)), layout, List.of());
        return usual().map(destination -> withWhere(recorder, destination.id())).orElse(recorder);
    }

    /** The destination that most recorders write to, or the only one; empty where none stands out. */
    public Optional<DestinationDefinition> usual() {
        List<String> used = definitions.all(RecorderDefinition.class).stream()
                .flatMap(each -> each.wheres().stream())
                .map(Where::destination)
                .toList();
        List<DestinationDefinition> offered = definitions.all(DestinationDefinition.class).stream()
                .filter(each -> !engine.storeKind(each.store()).statementsOnly())
                .toList();
        return offered.size() == 1
                ? Optional.of(offered.get(0))
                : offered.stream()
                        .filter(each -> used.contains(each.id()))
                        .max(Comparator.comparingInt(each -> Collections.frequency(used, each.id())));
    }

    /** Where the rows of a new one go, and why; said once, since nobody chose it. */
    public String whereSaid(RecorderDefinition recorder) {
        return recorder.wheres().stream()
                .flatMap(where -> definitions.destination(where.destination()).stream())
                .findFirst()
                .map(each -> "Its rows go to " + each.name() + ", "
                        + (definitions.all(DestinationDefinition.class).size() == 1
                                ? "the only destination there is."
                                : "as those of most recorders do. Choose otherwise under Where."))
                .orElse("Say where its rows go, under Where.");
    }

    /** The layout with the tag at its end, as its shape has tags. */
    Layout withTag(Layout layout, TagRef tag) {
        there(definitions.tag(tag));
        return Reshape.withTag(layout, tag, this::described);
    }

    /** What is known of a tag for a layout. */
    Reshape.Described described(TagRef tag) {
        Optional<TagFinder.FoundTag> found = finder.find(tag);
        return found.map(each -> new Reshape.Described(
                        each.info().name(),
                        each.equipment().isEmpty() ? last(each.info().path()) : each.equipment(),
                        each.info().unit(),
                        TypeChoice.forKind(each.info().kind())))
                .orElse(new Reshape.Described(tag.address(), "", "", SqlType.text(255)));
    }

    /** A column for a table's column: a run variable or tag of that name, else an empty constant to be exchanged. */
    Column byName(String name, SqlType type) {
        String wanted = plain(name);
        for (ColumnSource.Variable variable : ColumnSource.Variable.values()) {
            if (plain(variable.name()).equals(wanted)) {
                return Column.of(name, type, new ColumnSource.FromRun(variable));
            }
        }
        List<TagFinder.FoundTag> tags = finder.find("", "").stream()
                .filter(tag -> plain(tag.info().name()).equals(wanted)
                        || plain(last(tag.info().path()) + tag.info().name()).equals(wanted))
                .toList();
        return Column.of(
                name,
                type,
                tags.size() == 1
                        ? new ColumnSource.FromTag(tags.get(0).ref(), ColumnSource.Aspect.VALUE)
                        : new ColumnSource.Constant(""));
    }

    private static String plain(String name) {
        return name.toLowerCase(Locale.ROOT).replaceAll("[^\\p{L}\\p{N}]", "");
    }

    /** The recorder writing to a table or file of its own name in the destination, which it may make. */
    public RecorderDefinition withWhere(RecorderDefinition recorder, String destination) {
        if (recorder.wheres().stream().anyMatch(where -> where.destination().equals(destination))) {
            return recorder;
        }
        boolean files = definitions
                .destination(destination)
                .map(each -> engine.storeKind(each.store()).files())
                .orElse(false);
        String table = Layout.freeName(recorder.name(), List.of()) + (files ? "_{yyyy}-{MM}-{dd}" : "");
        Where where = new Where(
                destination,
                table,
                new Upkeep(true, true),
                !files && recorder.layout().rowIdColumn().isEmpty());
        return recorder.withWheres(
                Stream.concat(recorder.wheres().stream(), Stream.of(where)).toList());
    }

    /** The recorder under another name; tables that were proposed after the old one follow it as long as nothing was released. */
    RecorderDefinition renamed(RecorderDefinition recorder, String name) {
        if (definitions.live(recorder.id()).isPresent()) {
            return recorder.withName(name);
        }
        String before = Layout.freeName(recorder.name(), List.of());
        String after = Layout.freeName(name, List.of());
        return recorder.withName(name)
                .withWheres(recorder.wheres().stream()
                        .map(where ->
                                where.table().equals(before) || where.table().startsWith(before + "_{")
                                        ? where.withTable(after + where.table().substring(before.length()))
                                        : where)
                        .toList());
    }

    /** Named after what the tags' folders have in common. */
    private String freeName(List<String> paths) {
        String base = paths.size() == 1 && !paths.get(0).isEmpty() ? last(paths.get(0)) + " log" : "New recorder";
        return definitions.freeName(RecorderDefinition.class, "", base);
    }

    private static String last(String path) {
        return path.substring(path.lastIndexOf("/") + 1).strip();
    }

    /** Refuses what names a thing that is not there. */
    static void there(Optional<?> thing) {
        if (thing.isEmpty()) {
            throw new java.util.NoSuchElementException("No value present");
        }
    }
}
