package dachshund.engine.live;

import dachshund.core.definition.Definition;
import dachshund.core.definition.Plant;
import dachshund.core.work.Progress;
import java.util.List;

/**
 * How the definitions of one kind are put to work. One for each kind that does something by itself; a kind that is only looked
 * up by others, such as equipment, needs none.
 */
public interface AtWork<D extends Definition> {

    Class<D> type();

    /**
     * From now on these work, and no others of the kind. What did not change is not interrupted. One that cannot be put to work
     * is refused with a sentence, keeps what worked before it, and keeps no other from it.
     *
     * @param plant what they may look up
     */
    void changeover(List<D> live, Plant plant);

    /** The same, told how far it is; for kinds of which there are thousands. It cannot be ended: what is released is put to work. */
    default void changeover(List<D> live, Plant plant, Progress progress) {
        changeover(live, plant);
    }

    /** Whether it is told of what is released alone, and not of drafted sources that somebody looks at. */
    default boolean liveOnly() {
        return false;
    }

    /**
     * Puts one together as if it were to work, connects to nothing and lets go of it.
     *
     * @throws RuntimeException where it never could
     */
    void tryOut(D definition, Plant plant);

    /** Why one could not be put to work, in a sentence; empty where it could. */
    String refused(String id);
}
