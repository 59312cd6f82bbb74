
  private fun given(vararg values: Pair<String, Any?>): Map<String, Any> =
    values.mapNotNull { (name, value) -> value?.let { name to it } }.toMap()

  /** The address of a route; null where its screen has none, or a value of it is missing. */
  fun addressOf(route: Route): String? {
    val words = route.arguments.mapValues { Address.word(it.value) }
    return ADDRESSES.firstNotNullOfOrNull { (template, screen) ->
      if (screen == route.screen) Address.told(template, words) else null
    }
  }

  /** The route that an address leads to; null where there is none. */
  fun routeAt(address: String): Route? {
    for ((template, screen) in ADDRESSES) {
      val words = Address.read(template, address) ?: continue
      val given = LinkedHashMap<String, Any?>()
      for ((name, type) in typesOf(screen) ?: continue) {
        Address.valueOf(words[name], type)?.let { given[name] = it }
      }
      routeOf(screen, given)?.let { return it }
    }
    return null
  }

  /** A route of what came; null where there is no such screen, or an argument does not fit. */
  fun routeOf(screen: String, came: Map<String, Any?>): Route? {
    val types = typesOf(screen) ?: return null
    val given = LinkedHashMap<String, Any>()
    for ((name, value) in came) {
      given[name] = Address.fitting(value, types[name] ?: return null) ?: return null
    }
    return made(screen, given)
  }

  /** One open screen as it is saved; what else is kept of it stays as it came. */
  data class Entry(val route: Route, val opened: String, val rest: Map<String, Any?>)

  data class Chain(val section: String, val entries: List<Entry>, val asked: Boolean)

  data class SavedState(
    val section: String,
    val chains: List<Chain>,
    val values: Map<String, Any?>,
    val stored: List<Any?>,
  )

  /** What is saved, as JSON text. */
  fun writeSaved(state: SavedState): String {
    val chains = state.chains.map { chain ->
      val entries = chain.entries.map { entry ->
        entry.rest + mapOf(
          "screen" to entry.route.screen,
          "arguments" to entry.route.arguments,
          "opened" to entry.opened,
        )
      }
      mapOf("section" to chain.section, "entries" to entries, "asked" to chain.asked)
    }
    return Json.write(
      mapOf(
        "section" to state.section,
        "chains" to chains,
        "values" to state.values,
        "stored" to state.stored,
      ),
    )
  }

  /** What was saved, trusting nothing: an entry that does not fit is dropped with those after. */
  fun readSaved(text: String): SavedState {
    val came = try {
      objectOf(Json.read(text))
    } catch (error: RuntimeException) {
      mapOf()
    }
    val chains = listOf(came["chains"]).map { each ->
      val chain = objectOf(each)
      val entries = ArrayList<Entry>()
      for (one in listOf(chain["entries"])) {
        val rest = LinkedHashMap(objectOf(one))
        val given = objectOf(rest.remove("arguments"))
        val route = routeOf(textOf(rest.remove("screen"), ""), given) ?: break
        entries.add(Entry(route, textOf(rest.remove("opened"), "push"), rest))
      }
      Chain(textOf(chain["section"], ""), entries, chain["asked"] == true)
    }
    val section = textOf(came["section"], "")
    return SavedState(section, chains, objectOf(came["values"]), listOf(came["stored"]))
  }

  private fun textOf(came: Any?, otherwise: String): String = came as? String ?: otherwise

  @Suppress("UNCHECKED_CAST")
  private fun objectOf(came: Any?): Map<String, Any?> = came as? Map<String, Any?> ?: mapOf()

  @Suppress("UNCHECKED_CAST")
  private fun listOf(came: Any?): List<Any?> = came as? List<Any?> ?: emptyList()
}
