package dachshund.core.kind;

import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.keep.Selection;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Keeping rules, as the general parts know them. */
public final class KeepingRuleKind extends DefinitionKind<KeepingRuleDefinition> {

    public KeepingRuleKind() {
        super(70, "KEEPING_RULE", "Keeping rule", "keepingRule", KeepingRuleDefinition.class);
    }

    @Override
    protected Set<String> things(KeepingRuleDefinition rule) {
        return Stream.of(rule.which().source(), rule.which().equipmentClass())
                .filter(id -> !id.isEmpty())
                .collect(Collectors.toSet());
    }

    @Override
    protected Set<TagRef> tags(KeepingRuleDefinition rule) {
        return new LinkedHashSet<>(rule.which().ticked());
    }

    /** A tag that goes is not kept any more; what was kept of it stays. */
    @Override
    public boolean mayGoWhileNamed() {
        return true;
    }

    /** Which tags it means, in words. */
    public static String which(Selection which, Named named) {
        List<String> parts = new ArrayList<>();
        if (which.byTerms()) {
            List<String> terms = new ArrayList<>();
            if (!which.source().isEmpty()) {
                terms.add("of " + named.name(which.source()));
            }
            if (!which.folder().isEmpty()) {
                terms.add("in " + which.folder());
            }
            if (!which.equipmentClass().isEmpty()) {
                terms.add("of equipment of the class " + named.name(which.equipmentClass()));
            }
            if (!which.words().isEmpty()) {
                terms.add("with the words \"" + which.words() + "\"");
            }
            parts.add("tags " + String.join(", ", terms));
        }
        if (!which.ticked().isEmpty()) {
            parts.add(Sentences.count(which.ticked().size(), "ticked tag"));
        }
        return parts.isEmpty() ? "no tags" : String.join(" and ", parts);
    }

    @Override
    protected List<String> introduced(KeepingRuleDefinition rule, Named named) {
        return List.of("Keeps " + rule.how().words() + " of " + which(rule.which(), named) + " for "
                + rule.keptFor().words() + ".");
    }

    @Override
    protected List<String> removed(KeepingRuleDefinition was, Named named) {
        return List.of("Nothing more is kept by it; what was kept stays until its time is over.");
    }

    @Override
    protected void changed(KeepingRuleDefinition was, KeepingRuleDefinition is, Named named, Sentences sentences) {
        String before = which(was.which(), named);
        String after = which(is.which(), named);
        if (before.equals(after) && !was.which().equals(is.which())) {
            sentences.add("Other tags are ticked, as many as before.");
        }
        sentences.compare("Keeps", before, after);
        sentences.compare("Of them", was.how().words(), is.how().words());
        sentences.compare("Kept for", was.keptFor().words(), is.keptFor().words());
    }

    @Override
    public Optional<KeepingRuleDefinition> duplicate(KeepingRuleDefinition of, String id, String name) {
        return Optional.of(
                new KeepingRuleDefinition(id, name, of.description(), of.which(), of.how(), of.days(), of.summaries()));
    }
}
