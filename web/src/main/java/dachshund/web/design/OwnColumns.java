package dachshund.web.design;

import dachshund.core.definition.Definition;
import java.util.List;
import java.util.function.Function;

/** A kind that has a list of its own: the same list as of everything, and what it shows of a thing beside its name and state. */
public interface OwnColumns {

    /** A column of the list; numbers stand right. */
    record Head(String words, boolean number) {}

    /** What stands in it for one thing. */
    record Cell(String text, String css, String title) {

        public static Cell of(String text) {
            return new Cell(text, "", "");
        }

        public static Cell quiet(String text) {
            return new Cell(text, "quiet", "");
        }

        public static Cell mono(String text) {
            return new Cell(text, "mono", "");
        }

        public static Cell number(String text) {
            return new Cell(text, "num mono", "");
        }

        public Cell titled(String other) {
            return new Cell(text, css, other);
        }
    }

    /** The id of its kind. */
    String kind();

    /** Where its list is. */
    String page();

    List<Head> heads();

    /** The cells of things, asked for once for all that a page shows. */
    Function<Definition, List<Cell>> cells();

    /** A template with a fragment {@code more}, for a last column with what can be done with one thing; empty for none. */
    default String more() {
        return "";
    }
}
