package dachshund.core.kind;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Sources, as the general parts know them. */
public final class SourceKind extends DefinitionKind<SourceDefinition> {

    public SourceKind() {
        super(10, "SOURCE", "Source", "source", SourceDefinition.class);
    }

    @Override
    protected Set<TagRef> tags(SourceDefinition source) {
        Set<TagRef> tags = new HashSet<>();
        if (source.link().equals(FormulaTag.LINK)) {
            source.tags().forEach(tag -> tags.addAll(FormulaTag.of(tag).inputs().values()));
        }
        return tags;
    }

    @Override
    protected List<String> introduced(SourceDefinition source, Named named) {
        String place = ConnectsTo.words(source.settings());
        return List.of((place.isEmpty() ? "Takes " : "Connects to " + place + " and takes ")
                + Sentences.count(source.tags().size(), "tag") + " every " + PeriodText.write(source.rate()) + ".");
    }

    @Override
    protected List<String> removed(SourceDefinition was, Named named) {
        return List.of("Its tags have no values any more.");
    }

    @Override
    protected void changed(SourceDefinition was, SourceDefinition is, Named named, Sentences sentences) {
        sentences.compare("Kind", was.link(), is.link());
        sentences.settings(was.settings(), is.settings());
        sentences.compare("Rate", PeriodText.write(was.rate()), PeriodText.write(is.rate()));
        if (was.writing() != is.writing()) {
            sentences.add(
                    is.writing()
                            ? "People with the permission may write its tags from now on."
                            : "Its tags can no longer be written.");
        }
        tags(sentences, was, is);
    }

    @Override
    protected List<String> advice(SourceDefinition source) {
        return source.tags().isEmpty() ? List.of("No tag is taken from it yet, so it has no values.") : List.of();
    }

    /** Writing to the plant is switched on by a person for each source, so never for a copy. */
    @Override
    public Optional<SourceDefinition> duplicate(SourceDefinition of, String id, String name) {
        return Optional.of(new SourceDefinition(
                id, name, of.description(), of.link(), of.settings(), of.rate(), of.tags(), false));
    }

    /** Where a source is filed was part of its document once. */
    @Override
    protected void upToDate(ObjectNode document, int schemaVersion) {
        document.remove(List.of("folder", "labels"));
    }

    private static void tags(Sentences sentences, SourceDefinition was, SourceDefinition is) {
        Set<String> a = was.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
        Set<String> b = is.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
        long more = b.stream().filter(address -> !a.contains(address)).count();
        long fewer = a.stream().filter(address -> !b.contains(address)).count();
        if (more > 0) {
            sentences.add("Takes " + Sentences.count(more, "more tag") + ".");
        }
        if (fewer > 0) {
            sentences.add("Takes " + Sentences.count(fewer, "tag") + " less.");
        }
        if (!was.tags().stream()
                .filter(tag -> b.contains(tag.address()))
                .toList()
                .equals(is.tags().stream()
                        .filter(tag -> a.contains(tag.address()))
                        .toList())) {
            sentences.add("The facts of some tags (unit, kind, description) are renewed.");
        }
    }
}
