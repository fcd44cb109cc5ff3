package dachshund.web.page;

import java.time.Instant;

/**
 * What surrounds every page.
 *
 * @param workspace      which of the five is open; empty for none
 * @param mayChange      whether the person may design and release
 * @param mayManage      whether the person may manage people, keys and addresses
 * @param unreleased     how many things are drafted
 * @param databaseAway   why our own database does not answer; empty where it does
 * @param certificate    why the certificate that is set for the pages is not used; empty where it is, or none is set
 * @param keyLost        what happened to the key that secrets are sealed with; empty where it is there
 * @param broughtBack    when this installation was brought back from a backup, until somebody has read what that means; else null
 * @param release        the release that is live, 0 before the first
 * @param zone           plant time
 */
public record Frame(
        String workspace,
        String person,
        boolean mayChange,
        boolean mayManage,
        int unreleased,
        String databaseAway,
        String certificate,
        String keyLost,
        Instant broughtBack,
        long release,
        String zone) {}
