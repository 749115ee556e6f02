"""The desk at the quay, written anew: routes move here one by one."""
