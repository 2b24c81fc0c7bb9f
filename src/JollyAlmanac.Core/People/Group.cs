namespace JollyAlmanac.Core.People;

/// <summary>A group.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">What it stands for.</param>
/// <param name="Version">Rises with each change of its name and kind.</param>
/// <param name="People">How many people who are here are in it, by name or through a group that it holds.</param>
public sealed record Group(GroupId Id, string Name, GroupKind Kind, int Version, int People);
