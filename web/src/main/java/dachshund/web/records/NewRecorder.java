package dachshund.web.records;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.TypeChoice;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.when.When;
import dachshund.web.definition.Definitions;
import java.time.Duration;
import java.util.List;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Proposes what a recorder begins with, so that most of it can stay. */
@Component
public class NewRecorder {

    private static final Duration FIRST_RATE = Duration.ofSeconds(1);

    private final Definitions definitions;

    NewRecorder(Definitions definitions) {
        this.definitions = definitions;
    }

    /** A recorder of these tags every second, into the only destination there is, if there is one. */
    public RecorderDefinition of(List<TagRef> tags) {
        Layout layout = Layout.proposed();
        for (TagRef tag : tags) {
            layout = withTag(layout, tag);
        }
        String name = freeName(tags.stream().map(definitions::tag).flatMap(java.util.Optional::stream).map(TagInfo::path).distinct().toList());
        RecorderDefinition recorder = new RecorderDefinition(Definitions.newId(), name, "", List.of(new When.Every(FIRST_RATE)), layout, List.of());
        List<DestinationDefinition> destinations = definitions.all(DestinationDefinition.class);
        return destinations.size() == 1 ? withWhere(recorder, destinations.get(0).id()) : recorder;
    }

    /** The layout with a column for the tag at its end. */
    Layout withTag(Layout layout, TagRef tag) {
        TagInfo info = definitions.tag(tag).orElseThrow();
        return layout.plus(Column.of(layout.freeName(info.name()), TypeChoice.forKind(info.kind()),
                new ColumnSource.FromTag(tag, ColumnSource.Aspect.VALUE)));
    }

    /** The recorder writing to a table of its own name in the destination, which it may make. */
    public RecorderDefinition withWhere(RecorderDefinition recorder, String destination) {
        if (recorder.wheres().stream().anyMatch(where -> where.destination().equals(destination))) {
            return recorder;
        }
        String table = new Layout(List.of()).freeName(recorder.name());
        Where where = new Where(destination, table, new Upkeep(true, true), recorder.layout().rowIdColumn().isEmpty());
        return recorder.withWheres(Stream.concat(recorder.wheres().stream(), Stream.of(where)).toList());
    }

    /** Named after what the tags' folders have in common. */
    private String freeName(List<String> paths) {
        String base = paths.size() == 1 && !paths.get(0).isEmpty() ? last(paths.get(0)) + " log" : "New recorder";
        String name = base;
        for (int n = 2; !definitions.nameProblem(Definition.Kind.RECORDER, "", name).isEmpty(); n++) {
            name = base + " " + n;
        }
        return name;
    }

    private static String last(String path) {
        return path.substring(path.lastIndexOf("/") + 1).strip();
    }
}
