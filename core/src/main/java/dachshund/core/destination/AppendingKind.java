package dachshund.core.destination;

import dachshund.core.reach.Outside;
import java.util.Map;

/** A kind of destination in whose files single lines can be written. */
public interface AppendingKind extends StoreKind {

    /**
     * Writes a line at the end of a file, forced to disk. What a death has torn off there ends as a line of its own.
     *
     * @param settings values by name
     * @param file     its name in the folder
     * @param header   the first line of a file that is new; empty for none
     * @throws StoreProblem where it was not written
     */
    void append(Map<String, String> settings, Outside outside, String file, String header, String line)
            throws StoreProblem;
}
