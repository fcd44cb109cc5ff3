package dachshund.office.release;

import dachshund.core.definition.Definition;
import java.util.List;

/** What must hold before a definition of one kind is released, and what follows: one for each kind that has something to check. */
public interface KindCheck<D extends Definition> {

    Class<D> type();

    /**
     * Of one that is new or changed.
     *
     * @param consequences takes what follows, in sentences
     * @param problems     takes what must be mended before it can be released
     */
    void check(D drafted, ReviewPass pass, List<String> consequences, List<String> problems);
}
