package dachshund.web.lineup;

import dachshund.core.definition.Plant;
import dachshund.core.definition.Repeatable;
import java.util.List;

/** What a line-up shows of the lines of one kind. */
interface LineShown<D extends Repeatable<D, ?>> {

    Class<D> type();

    /** Heads what it would do now. */
    String nowHeading();

    /** What the line would do now, or why nothing. */
    String now(D line, Plant plant);

    /** Why it cannot work. */
    List<String> problems(D line, Plant plant);
}
