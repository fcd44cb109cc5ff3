/** Engines whose statements nobody has run: kept as their documentation has them, shown and copied, never connected to. */
package dachshund.links.unrun;
