package dachshund.office.design;

import dachshund.core.definition.DefinitionKind;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Function;

/** Everything that is designed, as one list: searched, narrowed, sorted and cut into pages. */
public final class DesignList {

    /** Lines of a page. */
    public static final int PAGE = 50;

    private static final Map<String, Comparator<Design>> SORTS = Map.of(
            "name", byText(Design::name),
            "kind",
                    Comparator.<Design, DefinitionKind<?>>comparing(
                            each -> each.thing().kind()),
            "state", byText(Design::state),
            "folder", byText(each -> each.filed().folder()),
            "who", byText(Design::by),
            "when", Comparator.comparing(Design::at, Comparator.reverseOrder()));

    private DesignList() {}

    /**
     * What of the list is asked for; what is empty does not narrow it.
     *
     * @param words each must occur somewhere, in any order, or be the id
     * @param folder it, and those below it
     * @param sort  name, kind, state, folder, who or when; anything else stands for name
     * @param page  from 1
     */
    public record Query(String words, String kind, String state, String folder, String who, String sort, int page) {

        /** The same for another page, as the query of an address. */
        public Query at(int other) {
            return new Query(words, kind, state, folder, who, sort, other);
        }

        /** The same in another order, from its first page. */
        public Query by(String other) {
            return new Query(words, kind, state, folder, who, other, 1);
        }
    }

    /**
     * A page of the list.
     *
     * @param all    how many lines there are on all pages
     * @param page   from 1; the last one where a later one was asked for
     * @param pages  at least 1
     */
    public record Page(List<Design> lines, int all, int page, int pages) {}

    private static Comparator<Design> byText(Function<Design, String> text) {
        return Comparator.comparing(text, String.CASE_INSENSITIVE_ORDER);
    }

    /** A page of what is found. */
    public static Page page(List<Design> designs, Query query) {
        List<Design> found = found(designs, query);
        int pages = Math.max(1, (found.size() + PAGE - 1) / PAGE);
        int page = Math.max(1, Math.min(query.page(), pages));
        return new Page(
                found.subList((page - 1) * PAGE, Math.min(found.size(), page * PAGE)), found.size(), page, pages);
    }

    /** All that is found, in order. */
    public static List<Design> found(List<Design> designs, Query query) {
        String[] words = query.words().toLowerCase(Locale.ROOT).strip().split("\\s+");
        return designs.stream()
                .filter(each ->
                        query.kind().isEmpty() || each.thing().kind().id().equals(query.kind()))
                .filter(each -> query.state().isEmpty() || each.state().equals(query.state()))
                .filter(each -> query.folder().isEmpty() || each.filed().within(query.folder()))
                .filter(each -> query.who().isEmpty() || each.by().equals(query.who()))
                .filter(each -> has(each, words))
                .sorted(SORTS.getOrDefault(query.sort(), SORTS.get("name"))
                        .thenComparing(SORTS.get("name"))
                        .thenComparing(each -> each.thing().id()))
                .toList();
    }

    private static boolean has(Design design, String[] words) {
        String text = design.text();
        for (String word : words) {
            if (!text.contains(word) && !word.equals(design.thing().id())) {
                return false;
            }
        }
        return true;
    }
}
