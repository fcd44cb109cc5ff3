package dachshund.web.transaction;

import dachshund.core.transaction.Step;
import dachshund.core.transaction.StepRun;
import java.util.List;
import java.util.Map;

/**
 * A step as the sheet shows it.
 *
 * @param kind     name of its kind
 * @param sentence what it does, in words
 * @param problems what of it cannot work, in sentences
 * @param sql      the statement that will run; empty where there is none, or something lacks
 * @param carries  what its parameters would carry now, as far as that is known
 * @param tag      the tag that it writes; empty for none
 * @param names    what it may use
 * @param speaks   of these, the ones that it speaks of, and whether they have a value without the steps before
 * @param tried    what became of it in the last try; null where none reached it
 */
record StepLine(
        int index,
        Step step,
        String kind,
        String sentence,
        List<String> problems,
        String sql,
        Map<String, String> carries,
        String tag,
        List<String> names,
        Map<String, Boolean> speaks,
        StepRun tried) {}
