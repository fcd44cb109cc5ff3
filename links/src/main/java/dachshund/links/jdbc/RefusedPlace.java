package dachshund.links.jdbc;

import java.sql.SQLNonTransientConnectionException;

/** A connection that may not be made: the message is a sentence for a person. */
final class RefusedPlace extends SQLNonTransientConnectionException {

    private static final long serialVersionUID = 1;

    private final boolean beside;

    /** @param beside whether it is about a database that rows name, and so the trouble of these rows alone */
    RefusedPlace(String sentence, boolean beside) {
        super(sentence, "08004");
        this.beside = beside;
    }

    boolean beside() {
        return beside;
    }
}
