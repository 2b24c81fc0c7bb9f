namespace JollyAlmanac.Core.Data;

/// <summary>The data directory cannot be used; the message says why and what to do, in one line.</summary>
public sealed class DataDirectoryException(string message) : Exception(message);
