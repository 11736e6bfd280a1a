package org.ysteron.store;

class MemoryStoreTest extends ObjectStoreContract {
  @Override
  ObjectStore open() {
    return new MemoryStore();
  }
}
