package dachshund.office.design;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.filing.Filings;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** What is done with several things of the list together: those with documents of their own, and formula tags in their sources'. */
@Component
public class Ticked {

    private static final int LONGEST_NAME = 200;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Filings filings;
    private final Designs designs;

    Ticked(Definitions definitions, Drafts drafts, Filings filings, Designs designs) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.filings = filings;
        this.designs = designs;
    }

    private static List<ListedFormula> formulas(Collection<Definition> things) {
        return things.stream()
                .filter(ListedFormula.class::isInstance)
                .map(ListedFormula.class::cast)
                .toList();
    }

    private static List<String> documents(Collection<Definition> things) {
        return things.stream()
                .filter(each -> !(each instanceof ListedFormula))
                .map(Definition::id)
                .toList();
    }

    private static Map<String, List<ListedFormula>> bySource(List<ListedFormula> formulas) {
        return formulas.stream()
                .collect(Collectors.groupingBy(each -> each.source().id(), LinkedHashMap::new, Collectors.toList()));
    }

    /** Drafts another one of each that is the same, filed as it is, under a name that is free; those that there is only ever one of are passed over. */
    public List<Definition> duplicate(Collection<Definition> things, String by) {
        List<Definition> copies = new ArrayList<>(drafts.duplicate(documents(things), by));
        Map<TagRef, ListedFormula> made = new LinkedHashMap<>();
        Map<String, UnaryOperator<SourceDefinition>> edits = new HashMap<>();
        bySource(formulas(things)).forEach((id, all) -> edits.put(id, source -> withCopies(source, all, made)));
        drafts.editSources(edits, by);
        made.forEach((copy, of) -> definitions
                .find(SourceDefinition.class, copy.source())
                .ifPresent(source -> source.tag(copy.address())
                        .map(tag -> ListedFormula.of(source, tag))
                        .ifPresent(listed -> {
                            filings.file(listed.id(), filings.of(of.id()));
                            copies.add(listed);
                        })));
        return copies;
    }

    private static SourceDefinition withCopies(
            SourceDefinition source, List<ListedFormula> of, Map<TagRef, ListedFormula> made) {
        List<TagInfo> tags = new ArrayList<>(source.tags());
        for (ListedFormula each : of) {
            Set<String> names = tags.stream().map(TagInfo::fullName).collect(Collectors.toSet());
            int n = 2;
            while (names.contains(
                    each.tag().named("copy", numbered(each.tag().name(), n)).fullName())) {
                n++;
            }
            TagInfo copy = each.tag()
                    .named(TagInfo.freeAddress(tags), numbered(each.tag().name(), n));
            tags.add(copy);
            made.put(new TagRef(source.id(), copy.address()), each);
        }
        return source.withTags(tags);
    }

    private static String numbered(String name, int n) {
        String number = " " + n;
        return name.substring(0, Math.min(name.length(), LONGEST_NAME - number.length())) + number;
    }

    /** Drafts the removal of each; what was never released just goes. */
    public void remove(Collection<Definition> things, String by) {
        List<String> documents = documents(things);
        Map<String, UnaryOperator<SourceDefinition>> edits = new HashMap<>();
        bySource(formulas(things)).forEach((id, all) -> {
            if (!documents.contains(id)) {
                Set<String> gone =
                        all.stream().map(each -> each.tag().address()).collect(Collectors.toSet());
                edits.put(
                        id,
                        source -> source.withTags(source.tags().stream()
                                .filter(tag -> !gone.contains(tag.address()))
                                .toList()));
            }
        });
        drafts.editSources(edits, by);
        drafts.removeAll(documents, by);
    }

    /** What an export of these takes along: a formula tag stands in its source. */
    public List<Definition> documentsOf(Collection<Definition> things) {
        return things.stream()
                .map(each -> each instanceof ListedFormula formula ? formula.source() : each)
                .distinct()
                .toList();
    }

    /** Things that name the given one and are not among those that leave with it. */
    public List<Definition> users(Definition thing, Collection<Definition> leaving) {
        Set<String> gone = leaving.stream().map(Definition::id).collect(Collectors.toSet());
        Stream<? extends Definition> users = thing instanceof ListedFormula formula
                ? Stream.concat(
                        definitions.users(formula.ref()).stream().filter(each -> !isOfFormulas(each)),
                        designs.madeOf(formula.ref()).stream()
                                .filter(each -> !gone.contains(each.source().id())))
                : definitions.users(thing.id()).stream();
        return users.filter(each -> !gone.contains(each.id()))
                .<Definition>map(each -> each)
                .toList();
    }

    private static boolean isOfFormulas(Definition thing) {
        return thing instanceof SourceDefinition source && source.link().equals(FormulaTag.LINK);
    }
}
