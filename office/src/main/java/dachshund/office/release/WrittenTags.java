package dachshund.office.release;

import dachshund.core.definition.Driven;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagRef;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.springframework.stereotype.Component;

/** What a release means for the tags that something writes: that another one writes them as well, or that nobody may write there. */
@Component
class WrittenTags {

    private final Definitions definitions;
    private final Engine engine;

    WrittenTags(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    /** @param more ids of sources that it writes to otherwise, such as brokers */
    void consequences(Driven design, Set<String> more, ReviewPass pass, List<String> consequences) {
        writers(design, pass, consequences);
        shut(design, more, pass, consequences);
    }

    private void writers(Driven design, ReviewPass pass, List<String> consequences) {
        Set<TagRef> own = design.writes();
        if (own.isEmpty()) {
            return;
        }
        pass.after().stream()
                .filter(Driven.class::isInstance)
                .map(Driven.class::cast)
                .filter(other -> !other.id().equals(design.id()))
                .forEach(other -> other.writes().stream()
                        .filter(own::contains)
                        .forEach(tag -> consequences.add(other.name() + " writes "
                                + definitions
                                        .tag(tag)
                                        .map(info -> info.fullName())
                                        .orElse(tag.address())
                                + " as well: the later one counts.")));
    }

    /** What its source does not let be written now: the release goes, and each write is refused until it does. */
    private void shut(Driven design, Set<String> more, ReviewPass pass, List<String> consequences) {
        Set<String> sources = new HashSet<>(more);
        design.writes().forEach(tag -> sources.add(tag.source()));
        if (sources.isEmpty()) {
            return;
        }
        pass.plant().all(SourceDefinition.class).stream()
                .filter(source -> sources.contains(source.id()) && !source.writing())
                .filter(source -> engine.sources().kind(source.link()).outside())
                .forEach(
                        source -> consequences.add(
                                "It writes to " + source.name()
                                        + ", where writing is off: until an administrator switches it on, the plant gets nothing from it."));
    }
}
