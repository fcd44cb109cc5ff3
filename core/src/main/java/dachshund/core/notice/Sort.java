package dachshund.core.notice;

/** What can need somebody. */
public enum Sort {
    HELD("a destination does not take rows", false, false),
    FAULTED("a lane is faulted", true, false),
    ASIDE("rows are set aside", false, false),
    OLD_ROWS("old rows are not removed", false, false),
    WAITING("triggers wait for nobody", false, false),
    STOPPED("a recorder stopped itself", true, false),
    SILENT("a source is silent", false, false),
    ENDS("a key or certificate ends soon, or cannot be read", false, false),
    DISK("the disk runs low", true, false),
    WAS_DOWN("the application was down", false, true),
    AUDIT("the audit is not whole", true, false);

    private final String words;
    private final boolean alarm;
    private final boolean once;

    Sort(String words, boolean alarm, boolean once) {
        this.words = words;
        this.alarm = alarm;
        this.once = once;
    }

    public String words() {
        return words;
    }

    /** Whether something is lost, or soon will be, unless somebody acts. */
    public boolean alarm() {
        return alarm;
    }

    /** Whether it has been and is over: told once, neither reminded of nor solved. */
    public boolean once() {
        return once;
    }
}
