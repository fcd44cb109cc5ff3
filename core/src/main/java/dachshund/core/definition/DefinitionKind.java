package dachshund.core.definition;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.tag.TagRef;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * One kind of definition, with all that the general parts have to know of it: its document, what it uses, its differences in
 * sentences, how it is duplicated. Registered once, in {@code META-INF/services/dachshund.core.definition.DefinitionKind}; how
 * it runs is registered with the engine, and what must hold before it is released with the review.
 *
 * @param <D> the definitions of this kind
 */
public abstract class DefinitionKind<D extends Definition> implements Comparable<DefinitionKind<?>> {

    private final int order;
    private final String id;
    private final String words;
    private final String document;
    private final Class<D> type;

    /**
     * @param order    place among the kinds, in which a release lists and applies them; different for each
     * @param id       as it is kept in our own database; never changes
     * @param words    what people call it, with a capital letter
     * @param document how its documents say what they are; never changes
     */
    protected DefinitionKind(int order, String id, String words, String document, Class<D> type) {
        this.order = order;
        this.id = id;
        this.words = words;
        this.document = document;
        this.type = type;
    }

    public final String id() {
        return id;
    }

    public final String words() {
        return words;
    }

    public final String document() {
        return document;
    }

    public final Class<D> type() {
        return type;
    }

    /** The ids of the things that it names. */
    protected Set<String> things(D definition) {
        return Set.of();
    }

    /** The tags that it names. */
    protected Set<TagRef> tags(D definition) {
        return Set.of();
    }

    /** What a new one does. */
    protected abstract List<String> introduced(D is, Named named);

    /** What follows from its removal. */
    protected abstract List<String> removed(D was, Named named);

    /** Everything that differs beside name and description; each difference is a sentence. */
    protected abstract void changed(D was, D is, Named named, Sentences sentences);

    /** Another one that is the same but for id and name, and what may not be twice; empty where there is only ever one. */
    public abstract Optional<D> duplicate(D of, String id, String name);

    /** What a reviewer should know of it though it can be released. */
    protected List<String> advice(D definition) {
        return List.of();
    }

    /** Whether it may be removed while others name it. */
    public boolean mayGoWhileNamed() {
        return false;
    }

    /** The closed choices in its documents: what of each there is, by the names that documents have for it. */
    protected Map<Class<?>, Map<String, Class<?>>> choices() {
        return Map.of();
    }

    /** Brings a document of an older schema up to date. */
    protected void upToDate(ObjectNode document, int schemaVersion) {}

    /** The ids of the things that a definition of this kind names. */
    public final Set<String> thingsOf(Definition definition) {
        return things(type.cast(definition));
    }

    /** The tags that a definition of this kind names. */
    public final Set<TagRef> tagsOf(Definition definition) {
        return tags(type.cast(definition));
    }

    /** Whether a definition of this kind names the thing with the id, itself or one of its tags. */
    public final boolean names(Definition definition, String thing) {
        return thingsOf(definition).contains(thing)
                || tagsOf(definition).stream().anyMatch(tag -> tag.source().equals(thing));
    }

    public final List<String> introducing(Definition is, Named named) {
        return introduced(type.cast(is), named);
    }

    public final List<String> removing(Definition was, Named named) {
        return removed(type.cast(was), named);
    }

    /** All differences between two states of one thing. */
    public final List<String> changing(Definition was, Definition is, Named named) {
        Sentences sentences = new Sentences();
        sentences.compare("Name", was.name(), is.name());
        sentences.compare("Description", was.description(), is.description());
        changed(type.cast(was), type.cast(is), named, sentences);
        return sentences.all();
    }

    public final Optional<? extends Definition> duplicating(Definition of, String newId, String name) {
        return duplicate(type.cast(of), newId, name);
    }

    public final List<String> advising(Definition definition) {
        return advice(type.cast(definition));
    }

    @Override
    public final int compareTo(DefinitionKind<?> other) {
        return Integer.compare(order, other.order);
    }

    @Override
    public final boolean equals(Object other) {
        return other instanceof DefinitionKind<?> kind && order == kind.order && id.equals(kind.id);
    }

    @Override
    public final int hashCode() {
        return Objects.hash(order, id);
    }

    @Override
    public final String toString() {
        return id;
    }
}
