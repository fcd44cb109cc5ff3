package dachshund.core.tag;

/**
 * What is known of a tag apart from its value.
 *
 * @param address     its address in its source
 * @param path        the folders above it in its source, separated by " / "; may be empty
 * @param name        its own name
 * @param kind        sort of value
 * @param unit        engineering unit as written by the source; empty where none
 * @param description in the source's words; may be empty
 * @param writable    whether the source says that it can be written
 */
public record TagInfo(String address, String path, String name, DataKind kind, String unit, String description,
                      boolean writable) {

    /** Path and name together, as shown in lists. */
    public String fullName() {
        return path.isEmpty() ? name : path + " / " + name;
    }
}
