package dachshund.core.tag;

/**
 * Which tag: the id of its source and its address there. The address is the source's own, stable over reconnects; for
 * OPC UA it is the node id with the namespace URI, never its index.
 */
public record TagRef(String source, String address) {

    public TagRef {
        if (source.isBlank() || address.isBlank()) {
            throw new IllegalArgumentException("A tag needs a source and an address.");
        }
    }
}
