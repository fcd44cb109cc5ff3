package dachshund.office.query;

import dachshund.core.aggregate.Method;
import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.reader.QueryProblem;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.springframework.stereotype.Component;

/** Which tags a query of histories means now, and what their columns are called. */
@Component
class MeantTags {

    private final Definitions definitions;

    MeantTags(Definitions definitions) {
        this.definitions = definitions;
    }

    /**
     * A tag that is asked.
     *
     * @param name of its column; different for each of them
     */
    record Tag(TagRef ref, TagInfo info, String name) {
        boolean numeric() {
            return info.kind().numeric();
        }

        Method method() {
            return info.kind() == DataKind.NUMBER ? Method.SLOPED : Method.STEPPED;
        }
    }

    /** Tags that a selection means now, by name. */
    List<Tag> which(TagHistory query, Standing standing) throws QueryProblem {
        if (query.which().empty()) {
            throw new QueryProblem("Choose tags: add them one by one, or say words that those have which are meant.");
        }
        if (query.mode() == Mode.AGGREGATED && query.of().isEmpty()) {
            throw new QueryProblem("Say what is computed of the values, such as their average.");
        }
        List<Assigned.Tag> found = Assigned.fitting(
                query.which(), all(standing, SourceDefinition.class), all(standing, EquipmentDefinition.class));
        // By words alone, texts may fit as well, of which nothing is computed.
        List<Assigned.Tag> meant = found.stream()
                .filter(each -> query.mode() != Mode.AGGREGATED
                        || each.info().kind().numeric()
                        || query.which().ticked().contains(each.ref()))
                .toList();
        for (Assigned.Tag each : meant) {
            if (query.mode() == Mode.AGGREGATED && !each.info().kind().numeric()) {
                throw new QueryProblem("Only numbers and yes/no have aggregates, and "
                        + each.info().fullName() + " is a text. Take it out, or ask for every value.");
            }
        }
        if (meant.isEmpty()) {
            throw new QueryProblem("No tag fits what is named here.");
        }
        if (meant.size() > TagHistory.MOST_TAGS) {
            throw new QueryProblem("That fits " + meant.size() + " tags, and no more than " + TagHistory.MOST_TAGS
                    + " are asked at once. Say more words.");
        }
        return named(meant);
    }

    private <T extends Definition> Collection<T> all(Standing standing, Class<T> type) {
        return standing == Standing.DRAFTED
                ? definitions.all(type)
                : definitions.live().stream()
                        .filter(type::isInstance)
                        .map(type::cast)
                        .toList();
    }

    /** By as few of the words of their paths as tell them apart. */
    static List<Tag> named(List<Assigned.Tag> tags) {
        String[] names = new String[tags.size()];
        for (int i = 0; i < names.length; i++) {
            String[] path = tags.get(i).info().fullName().split(" / ");
            names[i] = path[path.length - 1];
            for (int from = path.length - 2; from >= 0 && !alone(names[i], tags, i); from--) {
                names[i] = path[from] + " " + names[i];
            }
        }
        Set<String> taken = new HashSet<>();
        List<Tag> named = new ArrayList<>();
        for (int i = 0; i < names.length; i++) {
            String name = names[i];
            for (int more = 2; !taken.add(name.toLowerCase(Locale.ROOT)); more++) {
                name = names[i] + " " + more;
            }
            named.add(new Tag(tags.get(i).ref(), tags.get(i).info(), name));
        }
        return named;
    }

    private static boolean alone(String name, List<Assigned.Tag> tags, int index) {
        String end = name.toLowerCase(Locale.ROOT);
        for (int i = 0; i < tags.size(); i++) {
            String other = tags.get(i).info().fullName().replace(" / ", " ").toLowerCase(Locale.ROOT);
            if (i != index && (other.equals(end) || other.endsWith(" " + end))) {
                return false;
            }
        }
        return true;
    }
}
