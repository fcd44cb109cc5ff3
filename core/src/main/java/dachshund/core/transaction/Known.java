package dachshund.core.transaction;

import java.util.List;

/** What every run knows by itself, by the name that steps call it. */
public final class Known {

    /** The instant of the trigger. */
    public static final String FIRED = "fired";

    /** The number of the plant's request; nothing where none fired it. */
    public static final String REQUEST = "request";

    /** What tells this run from every other. */
    public static final String RUN = "run_id";

    public static final String TRANSACTION = "transaction";
    public static final String SITE = "site";

    /** Name of the equipment that the transaction is about; nothing where it is about none. */
    public static final String EQUIPMENT = "equipment";

    public static final List<String> ALL = List.of(FIRED, REQUEST, RUN, TRANSACTION, SITE, EQUIPMENT);

    private Known() {}
}
