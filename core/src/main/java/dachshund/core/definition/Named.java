package dachshund.core.definition;

import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.Map;
import java.util.Optional;

/** Names of what a definition refers to, as sentences say them: those of after a change, else of before it. */
public final class Named {

    private final Map<String, Definition> before;
    private final Map<String, Definition> after;

    /** @param before and after: by id */
    public Named(Map<String, Definition> before, Map<String, Definition> after) {
        this.before = before;
        this.after = after;
    }

    public Optional<Definition> thing(String id) {
        return Optional.ofNullable(after.getOrDefault(id, before.get(id)));
    }

    public String name(String id) {
        return thing(id).map(Definition::name).orElse("something that is not there (" + id + ")");
    }

    public String tag(TagRef ref) {
        if (ref.isGap()) {
            return "no tag yet";
        }
        return thing(ref.source())
                .filter(SourceDefinition.class::isInstance)
                .map(SourceDefinition.class::cast)
                .flatMap(source -> source.tags().stream()
                        .filter(info -> info.address().equals(ref.address()))
                        .findFirst())
                .map(TagInfo::fullName)
                .orElse(ref.address());
    }
}
