package dachshund.core.definition;

import java.util.Optional;

/**
 * A design that can be repeated for other machines: what follows it is a line of its line-up.
 *
 * @param <D> its own kind
 * @param <M> what a line has from its original
 */
public interface Repeatable<D extends Repeatable<D, M>, M> extends Driven {

    /** Id of the equipment that it is about; empty for none. */
    String equipment();

    /** The line-up it belongs to. */
    Optional<Follows<M>> follows();

    /** What it is beside all that a line has of its own. */
    M made();

    D withName(String other);

    D withEquipment(String other);

    D withFollows(Optional<Follows<M>> other);
}
