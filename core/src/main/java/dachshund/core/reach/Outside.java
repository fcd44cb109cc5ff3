package dachshund.core.reach;

/**
 * Whether a connection may go somewhere. Asked right before each one is made, on the thread that makes it: looking up a name
 * takes as long as the network lets it.
 */
public interface Outside {

    /** Everything may be reached. */
    Outside ANYWHERE = new Outside() {
        @Override
        public void check(String host, int port) {
            // nothing is refused
        }

        @Override
        public void check(String host, int port, String database) {
            // nothing is refused
        }
    };

    /** @throws Refused with a sentence, where no connection may go there */
    void check(String host, int port) throws Refused;

    /**
     * @param database name of a database of the server there
     * @throws Refused with a sentence, where no connection may go there, or this database is none to write to
     */
    void check(String host, int port, String database) throws Refused;

    /** A connection that may not be made. The message is a sentence for a person. */
    final class Refused extends Exception {
        private static final long serialVersionUID = 1;

        public Refused(String sentence) {
            super(sentence);
        }
    }
}
