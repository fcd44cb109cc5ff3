package dachshund.web.tag;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.web.definition.Definitions;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Finds tags by words in any order over source, path, name and description. */
@Component
public class TagFinder {

    private final Definitions definitions;

    /** A tag with its source. */
    public record FoundTag(SourceDefinition source, TagInfo info) {

        public TagRef ref() {
            return new TagRef(source.id(), info.address());
        }

        /** The tag as one text for forms: source id, then address. */
        public String key() {
            return source.id() + " " + info.address();
        }
    }

    TagFinder(Definitions definitions) {
        this.definitions = definitions;
    }

    /** The tag of {@link FoundTag#key}. */
    public static TagRef ref(String key) {
        int space = key.indexOf(' ');
        if (space < 1) {
            throw new IllegalArgumentException("This names no tag: " + key);
        }
        return new TagRef(key.substring(0, space), key.substring(space + 1));
    }

    /**
     * @param sourceId only tags of this source; empty for all
     * @param words    all must appear somewhere; empty finds everything
     */
    public List<FoundTag> find(String sourceId, String words) {
        String[] wanted = Stream.of(words.toLowerCase(Locale.ROOT).split("\\s+")).filter(word -> !word.isEmpty()).toArray(String[]::new);
        return definitions.all(SourceDefinition.class).stream()
                .filter(source -> sourceId.isEmpty() || source.id().equals(sourceId))
                .flatMap(source -> source.tags().stream().map(tag -> new FoundTag(source, tag)))
                .filter(found -> matches(found, wanted)).toList();
    }

    private static boolean matches(FoundTag found, String[] wanted) {
        if (wanted.length == 0) {
            return true;
        }
        TagInfo tag = found.info();
        String text = (found.source().name() + " " + tag.path() + " " + tag.name() + " " + tag.description()).toLowerCase(Locale.ROOT);
        for (String word : wanted) {
            if (!text.contains(word)) {
                return false;
            }
        }
        return true;
    }
}
