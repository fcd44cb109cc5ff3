package dachshund.web.design;

import dachshund.core.definition.DefinitionKinds;
import dachshund.office.design.Design;
import dachshund.office.design.DesignList;
import dachshund.office.design.DesignList.Query;
import dachshund.office.design.Designs;
import dachshund.office.design.ListedFormula;
import dachshund.office.filing.Filings;
import dachshund.web.design.OwnColumns.Cell;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;
import org.springframework.web.util.UriComponentsBuilder;

/** The one list, on the page of everything that is designed and on those of kinds with a page of their own. */
@Component
public class DesignLists {

    private static final String OF_ALL = "/designs";

    private final Designs designs;
    private final Filings filings;
    private final Map<String, OwnColumns> own;

    /**
     * What the page asks for; what is missing is empty, and what is no page is the first one.
     *
     * @param q words in any order
     */
    public record Asked(String q, String kind, String state, String folder, String who, String sort, String page) {

        public Query query() {
            return query(plain(kind));
        }

        /** The same of one kind. */
        public Query query(String kind) {
            return new Query(
                    plain(q),
                    kind,
                    plain(state),
                    plain(folder),
                    plain(who),
                    plain(sort).isEmpty() ? "name" : sort,
                    plain(page).matches("\\d{1,6}") ? Integer.parseInt(page) : 1);
        }

        private static String plain(String text) {
            return text == null ? "" : text;
        }
    }

    /**
     * What a page shows.
     *
     * @param path    where it is
     * @param any     whether there is anything at all, found or not
     * @param columns of the kind's own; null in the list of everything
     * @param cells   by id
     */
    public record Shown(
            Query query,
            String path,
            boolean any,
            DesignList.Page found,
            OwnColumns columns,
            Map<String, List<Cell>> cells,
            Set<String> states,
            List<String> folders,
            Set<String> people) {}

    DesignLists(Designs designs, Filings filings, List<OwnColumns> own) {
        this.designs = designs;
        this.filings = filings;
        this.own = own.stream().collect(Collectors.toMap(OwnColumns::kind, Function.identity()));
    }

    /** Whether a kind has a list on a page of its own. */
    boolean hasOwn(String kind) {
        return own.containsKey(kind);
    }

    /** Puts what is asked for where the template looks for it. */
    public void show(Query query, Model model) {
        List<Design> all = designs.all().stream()
                .filter(each ->
                        query.kind().isEmpty() || each.thing().kind().id().equals(query.kind()))
                .toList();
        DesignList.Page found = DesignList.page(all, query);
        Optional<OwnColumns> columns = Optional.ofNullable(own.get(query.kind()));
        Map<String, List<Cell>> cells = columns.map(OwnColumns::cells)
                .map(of -> found.lines().stream()
                        .collect(Collectors.toMap(each -> each.thing().id(), each -> of.apply(each.thing()))))
                .orElse(Map.of());
        model.addAttribute(
                "kinds",
                Stream.concat(DefinitionKinds.all().stream(), Stream.of(ListedFormula.KIND))
                        .sorted()
                        .toList());
        model.addAttribute(
                "list",
                new Shown(
                        query,
                        path(query.kind()),
                        !all.isEmpty(),
                        found,
                        columns.orElse(null),
                        cells,
                        texts(all.stream().map(Design::state).toList()),
                        List.copyOf(filings.folders()),
                        texts(all.stream().map(Design::by).toList())));
    }

    private static Set<String> texts(List<String> texts) {
        Set<String> all = new TreeSet<>(texts);
        all.remove("");
        return all;
    }

    private String path(String kind) {
        return own.containsKey(kind) ? own.get(kind).page() : OF_ALL;
    }

    /** The page of the list that somebody came from. */
    String address(Query query) {
        UriComponentsBuilder address = UriComponentsBuilder.fromPath(path(query.kind()))
                .queryParam("q", "{q}")
                .queryParam("state", "{state}")
                .queryParam("folder", "{folder}")
                .queryParam("who", "{who}")
                .queryParam("sort", "{sort}")
                .queryParam("page", "{page}");
        return (hasOwn(query.kind()) ? address : address.queryParam("kind", "{kind}"))
                .encode()
                .buildAndExpand(Map.of(
                        "q", query.words(),
                        "kind", query.kind(),
                        "state", query.state(),
                        "folder", query.folder(),
                        "who", query.who(),
                        "sort", query.sort(),
                        "page", query.page()))
                .toUriString();
    }
}
